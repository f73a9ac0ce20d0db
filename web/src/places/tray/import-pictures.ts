// Import pictures one after the other, each with its own result.
import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { ApiError, type ImportedSourceRead, importPicture } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { words } from "@/parts/format";
import { notify } from "@/parts/notices";
import {
  arrive,
  type Incoming,
  needsSorting,
  picked,
  refusal,
  useUploadState,
} from "@/places/intake/uploads";

/** Map type of a new picture: from its name, or chosen before. */
export const takenAs = [
  { value: "name", label: "group by file name" },
  { value: "base_color", label: "base color" },
  { value: "height", label: "height" },
  { value: "normal", label: "normal" },
] as const;

export type TakenAs = (typeof takenAs)[number]["value"];

async function takeAll(
  client: QueryClient,
  project: string,
  files: File[],
  as: TakenAs,
  step: (n: number) => void,
  toSort: (file: File) => void,
) {
  const health = await client.ensureQueryData(queries.health());
  const taken: ImportedSourceRead[] = [];
  for (const [n, file] of files.entries()) {
    step(n);
    const why = refusal(file, health);
    try {
      if (why) throw new Error(why);
      const one = await importPicture(project, file, as === "name" ? undefined : as);
      taken.push(one);
      notify(
        "good",
        one.known_set
          ? `${file.name} was imported before, as ${one.set_name}.`
          : `${file.name} was imported as ${one.set_name}${interpretation(one)}.`,
      );
    } catch (error) {
      if (error instanceof ApiError && error.code === "review-required") {
        toSort(file);
        notify("good", `${error.message}: restored.`);
      } else
        notify(
          "wrong",
          error instanceof Error ? error.message : `${file.name} couldn't be uploaded`,
        );
    }
  }
  await refresh(client, queries.tray(project).queryKey);
  return taken;
}

function interpretation(one: ImportedSourceRead): string {
  return one.kind === "base_color" ? "" : `, ${words(one.kind)}`;
}

/** Files are dropped or pasted anywhere on the page, or chosen; several go to Intake. */
export function useImportPictures(
  project: string,
  as: TakenAs,
  onTaken: (taken: ImportedSourceRead[]) => void,
) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [busy, setBusy] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  async function take(found: Incoming[]) {
    if (found.length === 0) return;
    const sort = (some: Incoming[]) => {
      void arrive(client, project, some);
      navigate(`/${project}/intake`);
    };
    if (as === "name" && needsSorting(found)) {
      sort(found);
      return;
    }
    const files = found.map(({ file }) => file);
    const taken = await takeAll(
      client,
      project,
      files,
      as,
      (n) => setBusy(`importing ${files[n]?.name} (${n + 1} of ${files.length})`),
      (file) => sort(found.filter((one) => one.file === file)),
    ).finally(() => setBusy(null));
    onTaken(taken);
  }
  useUploadState((found) => void take(found), setOver);
  return { busy, over, take: (files: FileList | null) => void take(picked(files)) };
}
