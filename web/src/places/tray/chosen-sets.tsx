// Actions on the selected sets.
import { ChevronDown } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Change, TrayRow } from "@/api/client";
import { Button, buttonClass } from "@/parts/button";
import { useCommands } from "@/parts/commands";
import { SetsChecklist } from "@/places/checklist/sets-checklist";
import { RecipesDialog } from "@/places/recipes/recipes-dialog";
import { BeforeAfter } from "./before-after";
import { BlendDialog } from "./blend-dialog";
import { ChangeDialog } from "./change-dialog";
import { type FormName, forms } from "./change-forms";
import type { useChange } from "./use-change";

interface Props {
  rows: TrayRow[];
  project: string;
  changing: ReturnType<typeof useChange>;
  onNone: () => void;
}

interface Walled {
  title: string;
  change: Change;
  /** Only these of the selected sets. */
  ids?: number[];
}

const menu: FormName[][] = [
  ["rename", "replace", "tags", "notes"],
  ["width", "relief", "interpret", "constant", "green", "card"],
  ["move", "merge", "delete"],
];
const needs: Partial<Record<FormName, (count: number) => boolean>> = {
  rename: (count) => count === 1,
  merge: (count) => count > 1 && count <= 50,
};

export function SelectionActions({ rows, project, changing, onNone }: Props) {
  const [open, setOpen] = useState<FormName | "recipe" | "checklist" | "blend" | null>(null);
  const [wall, setWall] = useState<Walled | null>(null);
  const ids = rows.map((row) => row.id);
  const { change } = changing;
  const navigate = useNavigate();
  const close = () => setOpen(null);
  useCommands([
    ...menu.flat().map((name) => ({
      id: `selection-${name}`,
      label: `Selection: ${forms[name].title}…`,
      disabled: !(needs[name]?.(rows.length) ?? true),
      run: () => setOpen(name),
    })),
    {
      id: "selection-deliver",
      label: "Selection: Deliver…",
      run: () => navigate(`/${project}/deliveries?sets=${ids.join(",")}`),
    },
  ]);
  const link = "no-underline hover:text-sheet hover:underline";
  return (
    <section
      aria-label="Selected sets"
      className="mt-3 flex h-11 shrink-0 items-center gap-4 rounded-md bg-ink px-4 text-sheet"
    >
      <span className="font-semibold">
        {rows.length} {rows.length === 1 ? "set" : "sets"} selected
      </span>
      <Button look="link" className={link} onClick={onNone}>
        Clear selection
      </Button>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          className={`ml-auto ${link} inline-flex items-center gap-1`}
          disabled={change.isPending}
        >
          {change.isPending ? "Changing…" : "Change"}
          <ChevronDown className="size-3.5" aria-hidden="true" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            side="top"
            align="end"
            sideOffset={8}
            className="z-30 rounded-sm border border-rule bg-card py-1"
          >
            {menu.map((names, n) => (
              <DropdownMenu.Group
                key={names[0]}
                className={n > 0 ? "mt-1 border-t border-rule pt-1" : ""}
              >
                {names.map((name) => (
                  <Item
                    key={name}
                    label={`${forms[name].title}…`}
                    disabled={!(needs[name]?.(rows.length) ?? true)}
                    onSelect={() => setOpen(name)}
                  />
                ))}
                {n === 0 && (
                  <>
                    <Item
                      label="Duplicate"
                      onSelect={() => change.mutate({ ids, change: { do: "duplicate" } })}
                    />
                    <Item
                      label="Blend two sets…"
                      disabled={rows.length !== 2}
                      onSelect={() => setOpen("blend")}
                    />
                  </>
                )}
              </DropdownMenu.Group>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <Button look="link" className={link} onClick={() => setOpen("checklist")}>
        Checklist…
      </Button>
      <Button look="link" className={link} onClick={() => setOpen("recipe")}>
        Apply recipe…
      </Button>
      <Link to={`/${project}/deliveries?sets=${ids.join(",")}`} className={buttonClass("main")}>
        Deliver…
      </Link>
      {open === "recipe" && (
        <RecipesDialog
          project={project}
          sets={rows}
          onClose={close}
          onApply={({ id }) => {
            change.mutate({ ids, change: { do: "recipe", recipe_id: id } });
            close();
          }}
          onWall={({ id, name }) => {
            setWall({ title: `Recipe ${name}`, change: { do: "recipe", recipe_id: id } });
            close();
          }}
        />
      )}
      {wall && (
        <BeforeAfter
          {...wall}
          rows={wall.ids ? rows.filter((row) => wall.ids?.includes(row.id)) : rows}
          onClose={() => setWall(null)}
          onTake={(taken) => {
            change.mutate({ ids: taken, change: wall.change });
            setWall(null);
          }}
        />
      )}
      {open === "blend" && rows[0] && rows[1] && (
        <BlendDialog project={project} rows={[rows[0], rows[1]]} onClose={close} />
      )}
      {open === "checklist" && (
        <SetsChecklist
          project={project}
          rows={rows}
          onClose={close}
          onMend={(some, wanted) => change.mutate({ ids: some, change: wanted })}
          onWall={(title, some, wanted) => {
            setWall({ title, ids: some, change: wanted });
            close();
          }}
        />
      )}
      {open && open !== "recipe" && open !== "checklist" && open !== "blend" && (
        <ChangeDialog
          name={open}
          rows={rows}
          project={project}
          onClose={close}
          onWall={(wanted) => {
            setWall({ title: forms[open].title, change: wanted });
            close();
          }}
          onDo={(wanted) => {
            change.mutate({ ids, change: wanted });
            close();
          }}
        />
      )}
    </section>
  );
}

interface ItemProps {
  label: string;
  disabled?: boolean;
  onSelect: () => void;
}

function Item({ label, disabled = false, onSelect }: ItemProps) {
  return (
    <DropdownMenu.Item
      disabled={disabled}
      onSelect={onSelect}
      className="cursor-pointer px-3 py-1 outline-none data-disabled:text-second data-disabled:opacity-50 data-highlighted:bg-copper-pale"
    >
      {label}
    </DropdownMenu.Item>
  );
}
