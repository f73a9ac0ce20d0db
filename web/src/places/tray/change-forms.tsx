// Parameters of a change of several sets: one form for each kind of change.
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import type { Change, MapKind, TrayRow, VocabularyRead } from "@/api/client";
import { queries } from "@/api/queries";
import { Choice } from "@/parts/choice";
import { NumberField } from "@/parts/number-field";

export interface FormProps {
  rows: TrayRow[];
  project: string;
  /** The change as currently specified; null while incomplete. */
  onChange: (change: Change | null) => void;
}

export interface ChangeForm {
  title: string;
  /** Button label, followed by the number of sets. */
  verb: string;
  /** The change affects the appearance, so a before/after comparison is available. */
  seen?: true;
  Form: (props: FormProps) => ReactNode;
}

const field = "h-control w-full rounded-sm border border-rule bg-card px-2";

function Labelled({ label, children }: { label: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is among its children
    <label className="mb-2.5 block">
      <span className="mb-1 block text-small font-medium text-second">{label}</span>
      {children}
    </label>
  );
}

function RenameForm({ rows, onChange }: FormProps) {
  const [name, setName] = useState(rows[0]?.name ?? "");
  return (
    <Labelled label="Name">
      <input
        className={field}
        value={name}
        maxLength={100}
        onChange={(event) => {
          const next = event.target.value;
          setName(next);
          onChange(next && next !== rows[0]?.name ? { do: "rename", name: next } : null);
        }}
      />
    </Labelled>
  );
}

function ReplaceForm({ onChange }: FormProps) {
  const [entered, setEntered] = useState({ find: "", into: "" });
  const enter = (more: Partial<typeof entered>) => {
    const next = { ...entered, ...more };
    setEntered(next);
    onChange(next.find ? { do: "replace_in_names", ...next } : null);
  };
  return (
    <>
      <Labelled label="Find">
        <input
          className={field}
          value={entered.find}
          onChange={(event) => enter({ find: event.target.value })}
        />
      </Labelled>
      <Labelled label="Replace with">
        <input
          className={field}
          value={entered.into}
          onChange={(event) => enter({ into: event.target.value })}
        />
      </Labelled>
    </>
  );
}

const listed = (text: string) => [
  ...new Set(
    text
      .split(",")
      .map((one) => one.trim())
      .filter(Boolean),
  ),
];

function TagsForm({ rows, onChange }: FormProps) {
  const there = [...new Set(rows.flatMap((row) => row.tags))].sort();
  const [entered, setEntered] = useState<{ add: string; remove: string[] }>({
    add: "",
    remove: [],
  });
  const enter = (more: Partial<typeof entered>) => {
    const next = { ...entered, ...more };
    setEntered(next);
    const add = listed(next.add);
    onChange(add.length + next.remove.length > 0 ? { do: "tags", add, remove: next.remove } : null);
  };
  return (
    <>
      <Labelled label="Add tags, separated by commas">
        <input
          className={field}
          value={entered.add}
          onChange={(event) => enter({ add: event.target.value })}
        />
      </Labelled>
      {there.length > 0 && (
        <fieldset className="mb-2.5">
          <legend className="mb-1 text-small font-medium text-second">Remove</legend>
          <span className="flex flex-wrap gap-x-4 gap-y-1">
            {there.map((tag) => (
              <label key={tag} className="inline-flex items-center gap-1.5">
                <input
                  type="checkbox"
                  className="accent-copper"
                  checked={entered.remove.includes(tag)}
                  onChange={(event) =>
                    enter({
                      remove: event.target.checked
                        ? [...entered.remove, tag]
                        : entered.remove.filter((one) => one !== tag),
                    })
                  }
                />
                {tag}
              </label>
            ))}
          </span>
        </fieldset>
      )}
    </>
  );
}

function NotesForm({ rows, onChange }: FormProps) {
  const same = rows.every((row) => row.notes === rows[0]?.notes);
  const [text, setText] = useState(same ? (rows[0]?.notes ?? "") : "");
  return (
    <Labelled label={same ? "Note" : "Note (replaces existing ones)"}>
      <textarea
        className="h-28 w-full rounded-sm border border-rule bg-card p-2"
        value={text}
        maxLength={4000}
        onChange={(event) => {
          setText(event.target.value);
          onChange({ do: "notes", text: event.target.value });
        }}
      />
    </Labelled>
  );
}

function WidthForm({ onChange }: FormProps) {
  const [metres, setMetres] = useState<number | null>(null);
  return (
    <Labelled label="Real-world width of the surface">
      <span className="flex w-40">
        <NumberField
          label="Width"
          value={metres}
          low={0.001}
          high={1000}
          places={3}
          unit="m"
          onCommit={(next) => {
            setMetres(next);
            onChange({ do: "width", metres: next });
          }}
        />
      </span>
    </Labelled>
  );
}

function ReliefForm({ onChange }: FormProps) {
  const { data: vocabulary } = useQuery(queries.vocabulary());
  const [degrees, setDegrees] = useState<number | null>(null);
  const enter = (next: number) => {
    setDegrees(next);
    onChange({ do: "relief", degrees: next });
  };
  return (
    <Labelled label="Mean slope of the relief">
      <span className="flex items-center gap-2">
        <span className="flex w-28">
          <NumberField label="Relief" value={degrees} low={0} high={45} unit="°" onCommit={enter} />
        </span>
        {Object.entries(vocabulary?.reliefs ?? {}).map(([name, value]) => (
          <button
            key={name}
            type="button"
            className="rounded-sm border border-rule bg-sheet px-2 hover:bg-card"
            onClick={() => enter(value)}
          >
            {name} {value}°
          </button>
        ))}
      </span>
    </Labelled>
  );
}

const WAYS = [
  { value: "invert/off", label: "Bright is high" },
  { value: "invert/on", label: "Dark is high (inverted)" },
  { value: "light/even", label: "even lighting" },
];

function ReadingForm({ onChange }: FormProps) {
  const [value, setValue] = useState("");
  return (
    <Labelled label="The photos are interpreted as">
      <Choice
        label="Interpretation"
        value={value}
        options={WAYS}
        onChange={(next) => {
          const [about, name] = next.split("/") as ["invert" | "light", string];
          setValue(next);
          onChange({ do: "interpret", about, name });
        }}
      />
    </Labelled>
  );
}

function ConstantForm({ onChange }: FormProps) {
  const { data: vocabulary } = useQuery(queries.vocabulary());
  const kinds = (vocabulary?.kinds ?? []).filter((one) => one.meaning !== "normal");
  const [entered, setEntered] = useState<{ kind: MapKind; value: number | null }>({
    kind: "roughness",
    value: null,
  });
  const enter = (more: Partial<typeof entered>) => {
    const next = { ...entered, ...more };
    setEntered(next);
    const { kind, value } = next;
    onChange(value === null ? null : { do: "constant", kind, value: valuesOf(kinds, kind, value) });
  };
  return (
    <>
      <Labelled label="Map">
        <Choice
          label="Map"
          value={entered.kind}
          options={kinds.map((one) => ({ value: one.kind, label: one.title }))}
          onChange={(kind) => enter({ kind: kind as MapKind })}
        />
      </Labelled>
      <Labelled label="Value from 0 to 1 (colors: gray, in linear light)">
        <span className="flex w-28">
          <NumberField
            label="Value"
            value={entered.value}
            low={0}
            high={1}
            places={3}
            step={0.01}
            onCommit={(value) => enter({ value })}
          />
        </span>
      </Labelled>
    </>
  );
}

function valuesOf(kinds: VocabularyRead["kinds"], kind: MapKind, value: number): number[] {
  const color = kinds.find((one) => one.kind === kind)?.meaning === "color";
  return color ? [value, value, value] : [value];
}

function CardForm({ onChange }: FormProps) {
  const { data: cards = [] } = useQuery(queries.cards());
  const [name, setName] = useState("");
  if (cards.length === 0)
    return <p className="mb-2.5 text-second">No source cards yet. Create them on Intake.</p>;
  return (
    <Labelled label="Source card">
      <Choice
        label="Source card"
        value={name}
        options={cards.map((one) => ({ value: one.name, label: one.name }))}
        onChange={(next) => {
          setName(next);
          onChange({ do: "card", name: next });
        }}
      />
    </Labelled>
  );
}

function GreenForm({ rows, onChange }: FormProps) {
  const cards = [...new Set(rows.flatMap((row) => row.card ?? []))].sort();
  const [card, setCard] = useState("");
  const options = [
    { value: "", label: "all selected sets" },
    ...cards.map((one) => ({ value: one, label: `only those with source card ${one}` })),
  ];
  return (
    <fieldset className="mb-2.5">
      <legend className="mb-1 text-small font-medium text-second">
        Switches imported normal maps between Y+ and Y−
      </legend>
      {options.map((one) => (
        <label key={one.value} className="flex items-center gap-2 py-0.5">
          <input
            type="radio"
            name="switched"
            className="accent-copper"
            checked={card === one.value}
            onChange={() => {
              setCard(one.value);
              onChange({ do: "flip_green", card: one.value || null });
            }}
          />
          {one.label}
        </label>
      ))}
    </fieldset>
  );
}

function MoveForm({ project, onChange }: FormProps) {
  const { data: projects = [] } = useQuery(queries.projects());
  const [to, setTo] = useState("");
  const others = projects.filter((one) => one.slug !== project);
  if (others.length === 0)
    return <p className="mb-2.5 text-second">There are no other projects.</p>;
  return (
    <Labelled label="To project">
      <Choice
        label="Project"
        value={to}
        options={others.map((one) => ({ value: one.slug, label: one.title }))}
        onChange={(next) => {
          setTo(next);
          onChange({ do: "move", project: next });
        }}
      />
    </Labelled>
  );
}

function MergeForm({ rows, onChange }: FormProps) {
  const [into, setInto] = useState("");
  return (
    <Labelled label="Merges the selected sets into one and moves the others to the Trash. Keep">
      <Choice
        label="Set to keep"
        value={into}
        options={rows.map((row) => ({ value: String(row.id), label: row.name }))}
        onChange={(next) => {
          setInto(next);
          onChange({ do: "merge", into: Number(next) });
        }}
      />
    </Labelled>
  );
}

const DeleteForm = () => (
  <p className="mb-1">You can restore them from the Trash at the bottom of the Tray for 30 days.</p>
);

export const forms = {
  rename: { title: "Rename", verb: "Rename", Form: RenameForm },
  replace: { title: "Find and replace in names", verb: "Rename", Form: ReplaceForm },
  tags: { title: "Tags", verb: "Tag", Form: TagsForm },
  notes: { title: "Note", verb: "Set note of", Form: NotesForm },
  width: { title: "Surface width", verb: "Change", Form: WidthForm },
  relief: { title: "Relief", verb: "Change", Form: ReliefForm, seen: true },
  interpret: { title: "Photo interpretation", verb: "Change", Form: ReadingForm, seen: true },
  constant: { title: "Constant map value", verb: "Change", Form: ConstantForm, seen: true },
  green: { title: "Switch normal Y+/Y−", verb: "Switch Y+/Y− of", Form: GreenForm, seen: true },
  card: { title: "Source card", verb: "Change", Form: CardForm },
  move: { title: "Move to another project", verb: "Move", Form: MoveForm },
  merge: { title: "Merge sets", verb: "Merge", Form: MergeForm },
  delete: { title: "Delete", verb: "Delete", Form: DeleteForm },
} as const satisfies Record<string, ChangeForm>;

export type FormName = keyof typeof forms;
