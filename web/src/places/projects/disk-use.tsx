// Disk use of a project, and what can be freed.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type ProjectRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { DialogFrame } from "@/parts/dialog-frame";
import { bytes, counted } from "@/parts/format";

export function DiskUse({ project, onClose }: { project: ProjectRead; onClose: () => void }) {
  const client = useQueryClient();
  const { data: use, error } = useQuery(queries.diskUse(project.slug));
  const [sure, setSure] = useState(false);
  const path = { params: { path: { project: project.slug } } };
  const empty = useMutation({
    mutationFn: () => answer(api.DELETE("/api/v1/projects/{project}/trash", path)),
    onSuccess: () => {
      setSure(false);
      void refresh(
        client,
        queries.diskUse(project.slug).queryKey,
        queries.tray(project.slug).queryKey,
      );
    },
  });
  const trash = use
    ? [
        use.trash_sets > 0 && counted(use.trash_sets, "set"),
        use.trash_imports > 0 && counted(use.trash_imports, "skipped file"),
      ].filter(Boolean)
    : [];
  return (
    <DialogFrame title="Disk use" about={project.title} look="w-140 p-5" onClose={onClose}>
      {error && (
        <p role="alert" className="text-wrong">
          △ {error.message}
        </p>
      )}
      {use && (
        <>
          <table className="w-full">
            <tbody>
              <Row label="Imported originals" about={counted(use.originals, "file")}>
                {use.original_bytes}
              </Row>
              {use.shared_bytes > 0 && (
                <Row label="" about="also used by other projects or recipes">
                  {use.shared_bytes}
                </Row>
              )}
              <Row
                label="Delivered files"
                about={`${counted(use.delivered_files, "file")}, latest delivery of each folder`}
              >
                {use.delivered_bytes}
              </Row>
              <Row label="Trash" about={trash.join(", ") || "empty"}>
                {use.trash_bytes}
              </Row>
            </tbody>
          </table>
          <p className="mt-3 text-small text-second">
            Deleted sets can be restored for 30 days. Then they are deleted for good, with the
            originals that only they use.
          </p>
          {trash.length > 0 && (
            <div className="mt-4 flex items-center justify-end gap-2">
              {sure && <span className="text-wrong">This can't be undone.</span>}
              {sure ? (
                <>
                  <Button look="bare" onClick={() => setSure(false)}>
                    Cancel
                  </Button>
                  <Button look="main" disabled={empty.isPending} onClick={() => empty.mutate()}>
                    Delete {trash.join(" and ")}
                  </Button>
                </>
              ) : (
                <Button onClick={() => setSure(true)}>
                  Empty trash… <span className="figures">{bytes(use.trash_bytes)}</span>
                </Button>
              )}
            </div>
          )}
        </>
      )}
    </DialogFrame>
  );
}

function Row({ label, about, children }: { label: string; about: string; children: number }) {
  return (
    <tr className="h-9 border-b border-rule">
      <th scope="row" className="text-left font-medium">
        {label}
      </th>
      <td className="text-second">{about}</td>
      <td className="text-right figures">{bytes(children)}</td>
    </tr>
  );
}
