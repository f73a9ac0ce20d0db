// The chosen map's controls in columns; every control comes from the operation's declaration.
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type {
  KindRead,
  MapDefinition,
  MapKind,
  OperationRead,
  ParameterRead,
  SurfaceSpec,
} from "@/api/client";
import { queries } from "@/api/queries";
import { Choice } from "@/parts/choice";
import { DialField } from "@/parts/dial-field";
import { bytes } from "@/parts/figures";
import { Segmented } from "@/parts/segmented";
import { Column } from "./column";
import { Made } from "./made";
import type { Change, DraftState } from "./use-draft";
import { replacing } from "./ways";

interface Props {
  kind: KindRead;
  definition: MapDefinition;
  state: DraftState;
  operations: OperationRead[];
  titleOf: (kind: MapKind) => string;
  onMoving: (moving: boolean) => void;
}

export function Drawer(props: Props) {
  const { definition } = props;
  return (
    <section
      aria-label={`${props.kind.title}, controls`}
      className="flex min-h-[168px] grow gap-6 overflow-auto rounded-b-md border border-t-2 border-rule border-t-copper bg-card px-4 py-3"
    >
      <Made {...props} />
      {definition.how === "derived" && <DerivedControls {...props} definition={definition} />}
      {definition.how === "constant" && <ConstantControls {...props} definition={definition} />}
      {definition.how === "imported" && <ImportedFacts {...props} definition={definition} />}
      <SurfaceControls {...props} />
    </section>
  );
}

type Of<How extends MapDefinition["how"]> = Extract<MapDefinition, { how: How }>;

function DerivedControls({
  kind,
  definition,
  state,
  operations,
  onMoving,
}: Props & { definition: Of<"derived"> }) {
  const operation = operations.find((one) => one.name === definition.operation);
  if (!operation) return <p>This map's operation is not known here.</p>;
  const given = definition.parameters ?? {};
  const groups = [...new Set(operation.parameters.map((one) => one.group))];
  const withValue = (name: string, value: number | boolean | string) =>
    replacing(kind.kind, { ...definition, parameters: { ...given, [name]: value } });
  return (
    <>
      {groups.map((group) => (
        <Column key={group} title={group}>
          {operation.parameters
            .filter((one) => one.group === group)
            .map((parameter) => (
              <Control
                key={parameter.name}
                parameter={parameter}
                value={given[parameter.name] ?? parameter.default}
                onMove={(value) => {
                  onMoving(true);
                  state.move(withValue(parameter.name, value));
                }}
                onSettle={(value) => {
                  onMoving(false);
                  state.settle(withValue(parameter.name, value));
                }}
              />
            ))}
        </Column>
      ))}
    </>
  );
}

interface ControlProps {
  parameter: ParameterRead;
  value: number | boolean | string;
  onMove: (value: number) => void;
  onSettle: (value: number | boolean | string) => void;
}

function Control({ parameter, value, onMove, onSettle }: ControlProps) {
  const { label, meaning, low, high, unit, choices } = parameter;
  if (typeof value === "number") {
    // Fractions of the tile are shown in per cent.
    const factor = unit === "tile" ? 100 : 1;
    return (
      <DialField
        label={label}
        value={value * factor}
        low={low * factor}
        high={high * factor}
        onMove={(shown) => onMove(shown / factor)}
        onSettle={(shown) => onSettle(shown / factor)}
        hint={unit === "tile" ? `${meaning}, in per cent of the picture's width` : meaning}
        unit={{ tile: "%", m: "m", deg: "°" }[unit]}
        initial={Number(parameter.default) * factor}
      />
    );
  }
  return (
    <Labelled label={label} hint={meaning}>
      {typeof value === "boolean" ? (
        <Segmented
          label={label}
          value={String(value)}
          options={yesNo}
          onChange={(next) => onSettle(next === "true")}
        />
      ) : (
        <Choice
          label={label}
          value={value}
          options={choices.map((choice) => ({ value: choice, label: choice }))}
          onChange={onSettle}
        />
      )}
    </Labelled>
  );
}

const yesNo = [
  { value: "false", label: "No" },
  { value: "true", label: "Yes" },
] as const;

function Labelled({ label, hint, children }: { label: string; hint: string; children: ReactNode }) {
  return (
    <div className="grid h-[30px] grid-cols-[84px_1fr] items-center gap-2">
      <span title={hint} className="truncate">
        {label}
      </span>
      <span>{children}</span>
    </div>
  );
}

function ConstantControls({
  kind,
  definition,
  state,
  onMoving,
}: Props & { definition: Of<"constant"> }) {
  const withComponent = (index: number, value: number) =>
    replacing(kind.kind, {
      ...definition,
      value: definition.value.map((old, i) => (i === index ? value : old)),
    });
  return (
    <Column title="One value, no picture">
      {definition.value.map((value, index) => {
        const component = kind.components[index] ?? "v";
        return (
          <DialField
            key={component}
            label={component === "v" ? kind.title : component.toUpperCase()}
            hint="the same everywhere"
            value={value}
            low={kind.meaning === "normal" ? -1 : 0}
            high={1}
            initial={kind.neutral[index] ?? 0}
            onMove={(next) => {
              onMoving(true);
              state.move(withComponent(index, next));
            }}
            onSettle={(next) => {
              onMoving(false);
              state.settle(withComponent(index, next));
            }}
          />
        );
      })}
    </Column>
  );
}

function ImportedFacts({ kind, definition, state }: Props & { definition: Of<"imported"> }) {
  const { data: facts } = useQuery(queries.source(definition.source));
  if (!facts) return null;
  const said =
    facts.encoding_source === "assumed" ? "assumed: the file does not say" : facts.encoding_source;
  return (
    <>
      <Column title="Came in as">
        <p className="truncate font-medium" title={facts.file_name}>
          {facts.file_name}
        </p>
        <p className="text-second figures">
          {facts.format.toUpperCase()} · {facts.width} × {facts.height} · {facts.channels.join("")}{" "}
          · {facts.bit_depth} bit · {bytes(facts.bytes)}
        </p>
        <a
          className="mt-1.5 inline-block text-copper underline underline-offset-2"
          href={`/api/sources/${definition.source}/original`}
        >
          Fetch the original, untouched
        </a>
      </Column>
      {kind.meaning === "color" && (
        <Column title="Read as" wide={false}>
          <Segmented
            label="Color encoding"
            value={definition.encoding ?? "srgb"}
            options={[
              { value: "srgb", label: "sRGB" },
              { value: "linear", label: "Linear" },
            ]}
            onChange={(encoding) => state.settle(replacing(kind.kind, { ...definition, encoding }))}
          />
          <p className="mt-1 text-[12.5px] text-second">{said}</p>
        </Column>
      )}
    </>
  );
}

function SurfaceControls({ state, onMoving }: Props) {
  const { surface } = state.draft;
  const withSurface =
    (change: Partial<SurfaceSpec>): Change =>
    (draft) => ({
      ...draft,
      surface: { ...draft.surface, ...change },
    });
  const dial = (name: "tile_size" | "depth", factor: number) => ({
    value: surface[name] * factor,
    onMove: (value: number) => {
      onMoving(true);
      state.move(withSurface({ [name]: value / factor }));
    },
    onSettle: (value: number) => {
      onMoving(false);
      state.settle(withSurface({ [name]: value / factor }));
    },
  });
  return (
    <Column title="The surface, for all maps">
      <DialField
        label="Width"
        hint="metres across the picture"
        low={0.05}
        high={5}
        unit="m"
        initial={1}
        {...dial("tile_size", 1)}
      />
      <DialField
        label="Depth"
        hint="between lowest and highest point"
        low={0}
        high={100}
        unit="mm"
        initial={20}
        {...dial("depth", 1000)}
      />
      <Labelled
        label="Borders"
        hint="If the borders meet, every operation wraps there; else it reflects"
      >
        <Segmented
          label="Borders"
          value={surface.wrap ? "wrap" : "reflect"}
          options={[
            { value: "reflect", label: "end" },
            { value: "wrap", label: "meet" },
          ]}
          onChange={(next) => state.settle(withSurface({ wrap: next === "wrap" }))}
        />
      </Labelled>
    </Column>
  );
}
