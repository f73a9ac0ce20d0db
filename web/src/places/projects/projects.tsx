// Start page: all projects, and commands for whole projects.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { MoreHorizontal, Plus } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { answer, api, type ProjectRead, type Schemas } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { AwayBanner } from "@/parts/away-banner";
import { Button } from "@/parts/button";
import { DialogFrame } from "@/parts/dialog-frame";
import { when } from "@/parts/format";
import { NoticeStack, notify } from "@/parts/notices";
import { useTitle } from "@/parts/title";
import { DiskUse } from "./disk-use";
import { ImportProject } from "./import-project";

type Changed = { what: "new" } | { what: "rename" | "copy" | "delete"; project: ProjectRead };
type Asked = Changed | { what: "space"; project: ProjectRead };

export function Projects() {
  useTitle("Projects");
  const { data: projects, error } = useQuery(queries.projects());
  const { data: away = [] } = useQuery(queries.projects(true));
  const [asked, setAsked] = useState<Asked | null>(null);
  const { change } = useProjectChanges();
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11.5 shrink-0 items-center gap-2.5 border-b border-rule px-4">
        <img src="/mark.svg" alt="" className="size-6" />
        <span className="font-semibold">Copper Sieve</span>
      </header>
      <AwayBanner />
      <main className="min-h-0 grow overflow-auto px-4 pb-6">
        <div className="mx-auto max-w-240">
          <div className="flex h-16 items-center gap-3">
            <h1 className="text-title font-semibold">Projects</h1>
            <ImportProject />
            <Button look="main" onClick={() => setAsked({ what: "new" })}>
              <Plus className="size-4" aria-hidden="true" /> New project
            </Button>
          </div>
          {error && <p className="rounded-md bg-wrong-pale p-3 text-wrong">{error.message}</p>}
          {projects?.length === 0 && (
            <p className="rounded-md border border-dashed border-rule p-8 text-center text-second">
              No projects yet. Create one, then import a photo of a surface.
            </p>
          )}
          <ul className="grid grid-cols-2 gap-3">
            {projects?.map((project) => (
              <Card key={project.slug} project={project} onAsk={setAsked} />
            ))}
          </ul>
          {away.length > 0 && (
            <section aria-label="Trash" className="mt-6">
              <h2 className="mb-1.5 text-small font-medium text-second">
                Trash (kept for 30 days)
              </h2>
              <ul className="divide-y divide-rule rounded-md border border-rule bg-card">
                {away.map((one) => (
                  <li key={one.slug} className="flex h-10 items-center gap-3 px-4">
                    <span className="grow truncate">{one.title}</span>
                    <span className="text-second">{one.deleted_at && when(one.deleted_at)}</span>
                    <Button
                      look="small"
                      aria-label={`Restore ${one.title}`}
                      onClick={() => change.mutate({ slug: one.slug, body: { deleted: false } })}
                    >
                      Restore
                    </Button>
                  </li>
                ))}
              </ul>
            </section>
          )}
        </div>
      </main>
      <NoticeStack />
      {asked?.what === "space" && (
        <DiskUse project={asked.project} onClose={() => setAsked(null)} />
      )}
      {asked && asked.what !== "space" && <Ask asked={asked} onClose={() => setAsked(null)} />}
    </div>
  );
}

interface CardProps {
  project: ProjectRead;
  onAsk: (asked: Asked) => void;
}

function Card({ project, onAsk }: CardProps) {
  const { sets } = project;
  return (
    <li className="relative rounded-md border border-rule bg-card hover:border-copper">
      <Link to={`/${project.slug}/tray`} className="block p-3">
        <span className="flex h-22 gap-1.5">
          {project.latest.map((id) => (
            <span key={id} className="size-22 overflow-hidden rounded-sm bg-ground">
              <img src={`/api/v1/sets/${id}/lit.png`} alt="" className="size-full object-cover" />
            </span>
          ))}
          {sets === 0 && (
            <span className="hatched grid grow place-items-center rounded-sm bg-paper text-second">
              no sets yet
            </span>
          )}
        </span>
        <span className="mt-2 block truncate pr-8 text-lead font-semibold">{project.title}</span>
        <span className="text-second">
          <span className="figures">
            {sets} {sets === 1 ? "set" : "sets"}
          </span>
          {project.changed_at && ` · changed ${when(project.changed_at)}`}
        </span>
      </Link>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={`More for ${project.title}`}
          className="absolute right-2 bottom-3 grid size-8 place-items-center rounded-sm text-second hover:bg-sheet hover:text-ink"
        >
          <MoreHorizontal className="size-4" aria-hidden="true" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            className="z-30 rounded-sm border border-rule bg-card py-1"
          >
            <Item onSelect={() => onAsk({ what: "rename", project })}>Rename…</Item>
            <Item onSelect={() => onAsk({ what: "copy", project })}>Duplicate…</Item>
            <DropdownMenu.Item asChild>
              <a className={item} href={`/api/v1/projects/${project.slug}/archive.zip`} download>
                Export project
              </a>
            </DropdownMenu.Item>
            <Item onSelect={() => onAsk({ what: "space", project })}>Disk use…</Item>
            <Item onSelect={() => onAsk({ what: "delete", project })}>Delete…</Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </li>
  );
}

const item = "block cursor-pointer px-3 py-1 outline-none data-highlighted:bg-copper-pale";

function Item({ children, onSelect }: { children: ReactNode; onSelect: () => void }) {
  return (
    <DropdownMenu.Item onSelect={onSelect} className={item}>
      {children}
    </DropdownMenu.Item>
  );
}

function useProjectChanges() {
  const client = useQueryClient();
  const fresh = () => refresh(client, queries.projects().queryKey);
  const change = useMutation({
    mutationFn: ({ slug, body }: { slug: string; body: Schemas["ProjectChange"] }) =>
      answer(
        api.PATCH("/api/v1/projects/{project}", { params: { path: { project: slug } }, body }),
      ),
    onSuccess: async (now, { slug, body }) => {
      if (body.deleted) {
        const run = () => change.mutate({ slug, body: { deleted: false } });
        notify("good", `${now.title} was moved to the Trash.`, { label: "Undo", run });
      }
      await fresh();
    },
  });
  const add = useMutation({
    mutationFn: (body: Schemas["ProjectCreate"]) => answer(api.POST("/api/v1/projects", { body })),
    onSuccess: fresh,
  });
  return { change, add };
}

const words = {
  new: { title: "New project", verb: "Create" },
  rename: { title: "Rename", verb: "Rename" },
  copy: { title: "Duplicate", verb: "Duplicate" },
  delete: { title: "Delete project", verb: "Delete" },
} as const;

function Ask({ asked, onClose }: { asked: Changed; onClose: () => void }) {
  const { change, add } = useProjectChanges();
  const of = asked.what === "new" ? null : asked.project;
  const usual = { new: "", rename: of?.title, copy: `${of?.title} (copy)`, delete: of?.title };
  const [title, setTitle] = useState(usual[asked.what] ?? "");
  const done = { onSuccess: onClose };
  function run() {
    if (!of) add.mutate({ title }, done);
    else if (asked.what === "copy") add.mutate({ title, copy_of: of.slug }, done);
    else
      change.mutate(
        { slug: of.slug, body: asked.what === "delete" ? { deleted: true } : { title } },
        done,
      );
  }
  return (
    <DialogFrame
      title={words[asked.what].title}
      about={of?.title}
      look="w-110 p-5"
      onClose={onClose}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          run();
        }}
      >
        {asked.what === "delete" ? (
          <p>
            Its {of?.sets} {of?.sets === 1 ? "set is" : "sets are"} deleted as well. You can restore
            the project on this page for 30 days. Delivered files stay.
          </p>
        ) : (
          <label className="block">
            <span className="mb-1 block text-small font-medium text-second">Title</span>
            <input
              className="h-control w-full rounded-sm border border-rule bg-card px-2"
              value={title}
              maxLength={80}
              required
              onChange={(event) => setTitle(event.target.value)}
            />
          </label>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <Button look="bare" onClick={onClose}>
            Cancel
          </Button>
          <Button
            type="submit"
            look="main"
            disabled={!title.trim() || change.isPending || add.isPending}
          >
            {words[asked.what].verb}
          </Button>
        </div>
      </form>
    </DialogFrame>
  );
}
