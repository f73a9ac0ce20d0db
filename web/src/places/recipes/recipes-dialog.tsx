// Recipes: save the derivation of a set, apply a saved recipe, import or export recipe files, or
// copy one set's settings to others.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Download, Trash2, Upload } from "lucide-react";
import { useRef, useState } from "react";
import {
  ApiError,
  type AppliedRead,
  answer,
  api,
  type RecipeRead,
  type Schemas,
  type SetRead,
} from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button, buttonClass } from "@/parts/button";
import { DialogFrame } from "@/parts/dialog-frame";
import { words } from "@/parts/format";
import { notify } from "@/parts/notices";

type Named = Pick<SetRead, "id" | "name">;

interface Props {
  project: string;
  /** The set whose settings may be saved or used elsewhere. */
  of?: SetRead;
  /** The sets that a recipe is applied to; default: `of`. */
  sets?: Named[];
  /** Applies a recipe to several sets in one change. */
  onApply?: ((recipe: RecipeRead) => void) | undefined;
  /** Open the before/after comparison first. */
  onWall?: ((recipe: RecipeRead) => void) | undefined;
  onClose: () => void;
}

/** Result of applying as a sentence. */
export function summary(applied: AppliedRead[]): string {
  const changed = applied.reduce((sum, one) => sum + one.changed.length, 0);
  const maps = `${changed} ${changed === 1 ? "map" : "maps"} changed`;
  const first = applied[0];
  if (applied.length === 1 && first) return `${first.set_name}: ${maps}.`;
  return `${applied.length} sets, ${maps}.`;
}

export function RecipesDialog({ project, of, sets, onApply, onWall, onClose }: Props) {
  const client = useQueryClient();
  const targets = sets ?? (of ? [of] : []);
  const [applied, setApplied] = useState<AppliedRead[]>([]);
  async function show(found: AppliedRead[]) {
    setApplied(found);
    notify("good", summary(found));
    const changed = found.map((one) => queries.set(one.set_id).queryKey);
    await refresh(client, queries.tray(project).queryKey, ...changed);
  }
  const stayed = applied.flatMap((one) =>
    Object.entries(one.kept).map(([kind, reason]) => ({ set: one.set_name, kind, reason })),
  );
  return (
    <DialogFrame
      title="Recipes"
      look="flex max-h-[86vh] w-160 flex-col overflow-auto p-5"
      onClose={onClose}
    >
      {of && <Save of={of} />}
      <Saved targets={targets} onApplied={show} onApply={onApply} onWall={onWall} />
      {of && <Elsewhere project={project} of={of} onApplied={show} />}
      {stayed.length > 0 && (
        <section aria-label="Not changed" className="mt-4 rounded-md bg-ochre-pale p-3">
          {stayed.map((one) => (
            <p key={`${one.set} ${one.kind}`} className="text-ochre">
              {one.set}, {words(one.kind)}: {one.reason}
            </p>
          ))}
        </section>
      )}
    </DialogFrame>
  );
}

const heading = "mb-1.5 text-small font-medium text-second";

function Save({ of }: { of: SetRead }) {
  const client = useQueryClient();
  const [name, setName] = useState(of.name.replaceAll("_", " "));
  const [taken, setTaken] = useState<string | null>(null);
  const save = useMutation({
    mutationFn: (replace: boolean) =>
      answer(api.POST("/api/v1/recipes", { body: { name: name.trim(), set_id: of.id, replace } })),
    onSuccess: async (saved) => {
      setTaken(null);
      notify("good", `Recipe ${saved.name} was saved.`);
      await refresh(client, queries.recipes().queryKey);
    },
    onError: (error) =>
      setTaken(error instanceof ApiError && error.status === 409 ? name.trim() : null),
  });
  return (
    <form
      className="mb-4"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(taken === name.trim());
      }}
    >
      <h3 className={heading}>Save the settings of {of.name}</h3>
      <div className="flex gap-2">
        <input
          aria-label="Name of the recipe"
          className="h-control grow rounded-sm border border-rule bg-card px-2"
          maxLength={80}
          required
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" look="main" disabled={!name.trim() || save.isPending}>
          {taken === name.trim() ? "Replace" : "Save"}
        </Button>
      </div>
    </form>
  );
}

interface SavedProps extends Pick<Props, "onApply" | "onWall"> {
  targets: Named[];
  onApplied: (applied: AppliedRead[]) => void;
}

function Saved({ targets, onApplied, onApply, onWall }: SavedProps) {
  const client = useQueryClient();
  const picker = useRef<HTMLInputElement>(null);
  const { data: recipes = [] } = useQuery(queries.recipes());
  const ids = targets.map((one) => one.id);
  const listed = () => refresh(client, queries.recipes().queryKey);
  const apply = useMutation({
    mutationFn: (id: number) =>
      answer(
        api.POST("/api/v1/recipes/{recipe_id}/applications", {
          params: { path: { recipe_id: id } },
          body: { set_ids: ids },
        }),
      ),
    onSuccess: onApplied,
  });
  const forget = useMutation({
    mutationFn: async (one: RecipeRead) => {
      const path = { recipe_id: one.id };
      const { response } = await api.DELETE("/api/v1/recipes/{recipe_id}", { params: { path } });
      if (!response.ok) throw new Error(`Recipe ${one.name} couldn't be deleted.`);
    },
    onSuccess: listed,
  });
  async function bring(file: File, replace = false) {
    try {
      const recipe = JSON.parse(await file.text()) as Schemas["Recipe"];
      const taken = await answer(
        api.POST("/api/v1/recipes/imports", { body: { recipe, replace } }),
      );
      notify("good", [`Recipe ${taken.recipe.name} was imported.`, ...taken.remarks].join(" "));
      await listed();
    } catch (error) {
      const known = error instanceof ApiError && error.status === 409;
      const why = error instanceof SyntaxError ? "it isn't valid JSON" : (error as Error).message;
      const again = { label: "Replace", run: () => void bring(file, true) };
      notify("wrong", `${file.name}: ${why}`, known ? again : undefined);
    }
  }
  const to = targets.length === 1 ? "Apply to this set" : `Apply to ${targets.length} sets`;
  return (
    <section aria-label="Saved recipes">
      <div className="flex items-center">
        <h3 className={heading}>Saved</h3>
        <Button look="bare" className="ml-auto" onClick={() => picker.current?.click()}>
          <Upload className="size-3.5" /> Import recipe…
        </Button>
        <input
          ref={picker}
          type="file"
          hidden
          accept=".json"
          aria-label="Recipe file"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) void bring(file);
            event.target.value = "";
          }}
        />
      </div>
      {recipes.length === 0 && <p className="text-second">No saved recipes.</p>}
      <ul className="divide-y divide-rule border-y border-rule empty:hidden">
        {recipes.map((one) => (
          <li key={one.id} className="flex items-center gap-2 py-1.5">
            <span className="min-w-0 grow">
              <span className="block truncate font-medium">{one.name}</span>
              <span className="block truncate text-small text-second">
                {one.maps.map(words).join(", ")}
              </span>
            </span>
            {onWall && (
              <Button disabled={ids.length === 0} onClick={() => onWall(one)}>
                Preview…
              </Button>
            )}
            <Button
              disabled={ids.length === 0 || apply.isPending}
              onClick={() => (onApply ? onApply(one) : apply.mutate(one.id))}
            >
              {to}
            </Button>
            <a
              className={buttonClass("bare")}
              href={`/api/v1/recipes/${one.id}/file.json`}
              aria-label={`Export ${one.name}`}
              title="Export as JSON"
              download
            >
              <Download className="size-4" />
            </a>
            <Button
              look="bare"
              aria-label={`Delete ${one.name}`}
              title="Delete. Sets that use it keep their settings"
              onClick={() => forget.mutate(one)}
            >
              <Trash2 className="size-4" />
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Elsewhere({
  project,
  of,
  onApplied,
}: {
  project: string;
  of: SetRead;
  onApplied: (applied: AppliedRead[]) => void;
}) {
  const { data: tray } = useQuery(queries.tray(project));
  const others = (tray?.rows ?? []).filter((one) => one.id !== of.id);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const use = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/v1/sets/{set_id}/settings-copies", {
          params: { path: { set_id: of.id } },
          body: { set_ids: [...chosen] },
        }),
      ),
    onSuccess: onApplied,
  });
  if (others.length === 0) return null;
  return (
    <section aria-label="Apply these settings to other sets" className="mt-4">
      <h3 className={heading}>Apply the settings of {of.name} to…</h3>
      <ul className="grid max-h-40 grid-cols-2 overflow-auto">
        {others.map((one) => (
          <li key={one.id}>
            <label className="flex h-7 items-center gap-2">
              <input
                type="checkbox"
                className="size-4 accent-copper"
                checked={chosen.has(one.id)}
                onChange={() =>
                  setChosen((before) => {
                    const next = new Set(before);
                    if (!next.delete(one.id)) next.add(one.id);
                    return next;
                  })
                }
              />
              <span className="truncate">{one.name}</span>
            </label>
          </li>
        ))}
      </ul>
      <div className="mt-2 flex items-center gap-3">
        <Button disabled={chosen.size === 0 || use.isPending} onClick={() => use.mutate()}>
          Apply to {chosen.size} {chosen.size === 1 ? "set" : "sets"}
        </Button>
        <Button
          look="bare"
          onClick={() =>
            setChosen(new Set(chosen.size === others.length ? [] : others.map((one) => one.id)))
          }
        >
          {chosen.size === others.length ? "None" : "All"}
        </Button>
        <span className="text-small text-second">Undo on the Bench of a set reverts it.</span>
      </div>
    </section>
  );
}
