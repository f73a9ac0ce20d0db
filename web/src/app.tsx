// Page frame: logo, project, views in the order of work, running jobs.
import { useQuery } from "@tanstack/react-query";
import { ChevronDown, Keyboard } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { Suspense, useEffect } from "react";
import { Link, NavLink, Outlet, useLocation, useNavigate, useParams } from "react-router";
import { queries } from "@/api/queries";
import { AwayBanner } from "@/parts/away-banner";
import { allCommands, useCommands } from "@/parts/commands";
import { Hint } from "@/parts/marks";
import { NoticeStack, notify } from "@/parts/notices";
import { CommandPalette } from "@/parts/palette";
import { JobIndicator } from "@/places/jobs/job-indicator";

const places = [
  { path: "tray", label: "Tray", also: "sets import delete rename filter photo" },
  { path: "intake", label: "Intake", also: "import sort detect" },
  { path: "models", label: "Models", also: "bake uv high-poly" },
  {
    path: "bench",
    label: "Bench",
    also: "saturation invert roughness occlusion height normal hdri delight tileable",
  },
  { path: "targets", label: "Targets", also: "packing channels directx convention file names" },
  { path: "deliveries", label: "Deliveries", also: "export webhook board history assay" },
] as const;

export function useProject(): string {
  const { project } = useParams();
  if (!project) throw new Error("This view requires a project.");
  return project;
}

/**
 * In views that don't import files, dropping a file would make the browser leave the page. Show a
 * message instead.
 */
function useDropGuard() {
  const taking = /\/(tray|intake|models)$/.test(useLocation().pathname);
  useEffect(() => {
    const guard = (event: DragEvent) => {
      if (!event.dataTransfer?.types.includes("Files")) return;
      event.preventDefault(); // in all views, because the view may still be loading
      if (event.type === "drop" && !taking)
        notify(
          "wrong",
          "Nothing was imported: drop pictures on Intake or the Tray, and models on Models.",
        );
    };
    addEventListener("dragover", guard);
    addEventListener("drop", guard);
    return () => {
      removeEventListener("dragover", guard);
      removeEventListener("drop", guard);
    };
  }, [taking]);
}

export function Frame() {
  const project = useProject();
  useDropGuard();
  const navigate = useNavigate();
  const { data: projects } = useQuery(queries.projects());
  const { data: tray } = useQuery(queries.tray(project));
  const { data: health } = useQuery(queries.health());
  useCommands([
    ...places.map((place, n) => ({
      id: `place-${place.path}`,
      label: `Go to ${place.label}`,
      also: place.also,
      keys: `Ctrl+${n + 1}`,
      run: () => navigate(`/${project}/${place.path}`),
    })),
    { id: "projects", label: "Open all projects", run: () => navigate("/projects") },
    ...(health && !health.open ? [{ id: "sign-out", label: "Sign out", run: signOut }] : []),
    ...(tray?.rows ?? []).map((set) => ({
      id: `set-${set.id}`,
      label: `Open ${set.name}`,
      run: () => navigate(`/${project}/bench/${set.id}`),
    })),
  ]);
  const title = projects?.find((one) => one.slug === project)?.title ?? project;
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11.5 shrink-0 items-center border-b border-rule px-4">
        <img src="/mark.svg" alt="Copper Sieve" className="size-6" />
        <ProjectSwitcher project={project} title={title} />
        <nav aria-label="Views" className="ml-7 flex h-full">
          {places.map((place) => (
            <NavLink
              key={place.path}
              to={`/${project}/${place.path}`}
              className="flex items-center border-b-2 border-transparent px-3.5 pt-0.5 text-second hover:text-ink aria-[current=page]:border-copper aria-[current=page]:font-semibold aria-[current=page]:text-ink"
            >
              {place.label}
            </NavLink>
          ))}
        </nav>
        <OpenToAll />
        <JobIndicator project={project} />
        <HelpButtons />
      </header>
      <AwayBanner />
      <main className="min-h-0 grow overflow-auto">
        <Suspense fallback={null}>
          <Outlet />
        </Suspense>
      </main>
      <NoticeStack />
      <CommandPalette />
    </div>
  );
}

/** End the session of this browser; the server then requires its token again. */
async function signOut() {
  await fetch("/access/end", { method: "POST", redirect: "manual" });
  window.location.assign("/");
}

/** Buttons for the command palette and the keyboard shortcuts. */
function HelpButtons() {
  const press = (id: string) =>
    allCommands()
      .find((one) => one.id === id)
      ?.run();
  const look = "grid h-7 place-items-center rounded-md px-2 text-second hover:text-ink";
  return (
    <>
      <button
        type="button"
        title="Command palette"
        className={look}
        onClick={() => press("palette")}
      >
        <kbd className="rounded-sm border border-rule bg-sheet px-1.5 text-note figures">
          Ctrl+K
        </kbd>
      </button>
      <a
        href="/help/index.html"
        target="_blank"
        rel="noreferrer"
        title="Open the manual"
        className={look}
      >
        Help
      </a>
      <button
        type="button"
        aria-label="Keyboard shortcuts"
        className={look}
        onClick={() => press("help")}
      >
        <Keyboard className="size-4.5" aria-hidden="true" />
      </button>
    </>
  );
}

/** States that the demo needs no token. */
function OpenToAll() {
  const { data: health } = useQuery(queries.health());
  if (!health?.open) return <span className="ml-auto" />;
  return (
    <Hint text="Demo: every program on this computer can use this server without an access token. ./sieve serve requires one.">
      <span className="ml-auto rounded-md border border-rule px-2 py-0.5 text-small text-second">
        Demo · no login
      </span>
    </Hint>
  );
}

/** Menu of projects. */
function ProjectSwitcher({ project, title }: { project: string; title: string }) {
  const { data: projects = [] } = useQuery(queries.projects());
  const item = "block max-w-80 truncate px-3 py-1 outline-none data-highlighted:bg-copper-pale";
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        title="Projects"
        className="ml-1 flex h-8 max-w-60 items-center gap-1.5 rounded-md px-1.5 font-semibold hover:bg-sheet"
      >
        <span className="truncate">{title}</span>
        <ChevronDown className="size-3.5 shrink-0 text-second" aria-hidden="true" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          className="z-30 max-h-[70vh] overflow-auto rounded-sm border border-rule bg-card py-1"
        >
          {projects.map((one) => (
            <DropdownMenu.Item key={one.slug} asChild>
              <a
                className={`${item} ${one.slug === project ? "font-semibold" : ""}`}
                href={`/${one.slug}/tray`}
              >
                {one.title} <span className="font-normal text-second figures">{one.sets}</span>
              </a>
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Item asChild>
            <Link className={`${item} mt-1 border-t border-rule pt-1.5`} to="/projects">
              All projects…
            </Link>
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
