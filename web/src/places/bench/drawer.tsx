// Settings of the selected map in columns, generated from the operation's declaration.
import type {
  KindRead,
  LightRead,
  MapDefinition,
  MapKind,
  PreparedFacts,
  TilingRead,
} from "@/api/client";
import { Button } from "@/parts/button";
import { DialField } from "@/parts/dial-field";
import { Cage } from "./cage";
import { withColor } from "./colors-field";
import { Column, FoldedColumns, useColumns } from "./column";
import { Control, type Value } from "./controls";
import { DefinitionColumn } from "./definition-column";
import { ImportedFacts } from "./imported-facts";
import type { About } from "./interpretations";
import { KeyUncertainty } from "./key-uncertainty";
import { LightInterpretations } from "./light-interpretations";
import { editing, type Filling, fittingMaps, operationOf, type World } from "./map-definitions";
import { RemovedLighting } from "./removed-lighting";
import { SlotField } from "./slot-field";
import { SurfaceControls } from "./surface-controls";
import type { DraftState } from "./use-draft";

const SURFACE = "Surface";

export interface Picking {
  /** The parameter that the color picker sets, or null. */
  parameter: string | null;
  pick: (parameter: string | null) => void;
}

interface Props {
  kind: KindRead;
  definition: MapDefinition;
  state: DraftState;
  world: World;
  titleOf: (kind: MapKind) => string;
  onMoving: (moving: boolean) => void;
  facts: PreparedFacts;
  tiling: TilingRead | null;
  light: LightRead | null;
  picking: Picking;
  setId: number;
  moving: boolean;
  /** Show the interpretations of the photo. */
  onReadings: (about: About) => void;
}

export function Drawer(props: Props) {
  const { definition } = props;
  return (
    <section
      aria-label={`Settings of ${props.kind.title}`}
      className="flex min-h-42 grow gap-6 overflow-auto rounded-b-md border border-t-2 border-rule border-t-copper bg-card px-4 py-3"
    >
      <DefinitionColumn {...props} />
      {definition.how === "derived" && (
        <DerivedControls key={definition.operation} {...props} definition={definition} />
      )}
      {definition.how === "constant" && <ConstantControls {...props} definition={definition} />}
      {definition.how === "imported" && <ImportedFacts {...props} definition={definition} />}
      {definition.how !== "derived" && (
        <Column title={SURFACE}>
          <SurfaceControls {...props} />
        </Column>
      )}
    </section>
  );
}

type Of<How extends MapDefinition["how"]> = Extract<MapDefinition, { how: How }>;

function DerivedControls(props: Props & { definition: Of<"derived"> }) {
  const { kind, definition, state, world, titleOf, onMoving, picking, light } = props;
  const operation = operationOf(world.operations, definition.operation, kind);
  const { parameters = [], slots = [] } = operation ?? {};
  const groups = [...new Set([...parameters, ...slots].map((one) => one.group))];
  const columns = useColumns(definition.operation, [...groups, SURFACE]);
  if (!operation) return <p>This version doesn't know how this map is made. Update the server.</p>;
  const given = definition.parameters ?? {};
  const fillings = definition.slots ?? {};
  const withValues = (values: Record<string, Value>) =>
    editing(kind.kind, definition, (now) => ({
      ...now,
      parameters: { ...now.parameters, ...values },
    }));
  const withValue = (name: string, value: Value) => withValues({ [name]: value });
  const withFilling = (name: string, filling: Filling | undefined) =>
    editing(kind.kind, definition, (now) => {
      const { [name]: _, ...others } = now.slots ?? {};
      return { ...now, slots: filling ? { ...others, [name]: filling } : others };
    });
  const of = (group: string) => ({
    slots: slots.filter((one) => one.group === group),
    parameters: parameters.filter((one) => one.group === group),
  });
  /** Blend controls are shown only with a second input. */
  const isIdle = (group: string) => {
    const here = of(group).slots;
    return here.length > 0 && !here.some((one) => one.required || fillings[one.name]);
  };
  const changed = (group: string) =>
    of(group).parameters.filter(
      (one) => given[one.name] !== undefined && given[one.name] !== one.default,
    ).length + of(group).slots.filter((one) => !one.required && fillings[one.name]).length;
  // Derived from a photo's color: light direction and relief are ambiguous.
  const isDelit = kind.kind === "base_color";
  const isRead = parameters.some((one) => one.name === "shading");
  const folded = [...groups, SURFACE].filter((one) => !columns.isOpen(one));
  return (
    <>
      {groups.filter(columns.isOpen).map((group) => (
        <Column key={group} title={group} onFold={() => columns.fold(group)}>
          {of(group).slots.map((slot) => (
            <SlotField
              key={slot.name}
              slot={slot}
              filling={fillings[slot.name]}
              fitting={fittingMaps(state.draft, kind.kind, slot, world.kinds, world.operations)}
              kinds={world.kinds}
              titleOf={titleOf}
              onFill={(filling) => state.commit(withFilling(slot.name, filling))}
            />
          ))}
          {!isIdle(group) &&
            of(group).parameters.map((parameter) => (
              <Control
                key={parameter.name}
                parameter={parameter}
                value={given[parameter.name] ?? parameter.default}
                onMove={(value) => {
                  onMoving(true);
                  state.move(withValue(parameter.name, value));
                }}
                onCommit={(value) => {
                  onMoving(false);
                  state.commit(withValue(parameter.name, value));
                }}
                picking={picking.parameter === parameter.name}
                onPick={(on) => picking.pick(on ? parameter.name : null)}
              />
            ))}
          {light?.lit && of(group).parameters.some((one) => one.name === "light_direction") && (
            <LightInterpretations
              light={light}
              shading={Number(given.shading ?? 0)}
              lightFrom={Number(given.light_direction ?? 0)}
              onRead={(reading) => state.commit(withValues({ ...reading }))}
              onSee={() => props.onReadings("light")}
            />
          )}
          {isRead && of(group).parameters.some((one) => one.name === "invert") && (
            <Button
              onClick={() => props.onReadings("invert")}
              look="link"
              className="ml-23 text-small"
            >
              Compare
            </Button>
          )}
          {of(group).parameters.some((one) => one.name === "delight" && isDelit) && (
            <RemovedLighting
              setId={props.setId}
              by="base_color"
              draft={state.draft}
              moving={props.moving}
              onEven={(scale) =>
                state.commit(withValues({ delight: 0.9, lighting_scale: Math.max(0.02, scale) }))
              }
            />
          )}
          {given.colors && of(group).parameters.some((one) => one.name === "exclude") && (
            <KeyUncertainty
              setId={props.setId}
              kind={kind.kind}
              draft={state.draft}
              moving={props.moving}
              onDecide={(name, color) =>
                state.commit(withValue(name, withColor(String(given[name] ?? ""), color, 8)))
              }
            />
          )}
        </Column>
      ))}
      {operation.takes_from === "high_poly" && (
        <Cage
          setId={props.setId}
          draft={state.draft}
          moving={props.moving}
          onMove={(change) => {
            onMoving(true);
            state.move(change);
          }}
          onCommit={(change) => {
            onMoving(false);
            state.commit(change);
          }}
        />
      )}
      <FoldedColumns
        folded={folded.map((title) => ({ title, changed: changed(title) }))}
        onOpen={columns.open}
      />
      {columns.isOpen(SURFACE) && (
        <Column title={SURFACE} onFold={() => columns.fold(SURFACE)}>
          <SurfaceControls {...props} />
        </Column>
      )}
    </>
  );
}

function ConstantControls({
  kind,
  definition,
  state,
  onMoving,
}: Props & { definition: Of<"constant"> }) {
  const withComponent = (index: number, value: number) =>
    editing(kind.kind, definition, (now) => ({
      ...now,
      value: now.value.map((old, i) => (i === index ? value : old)),
    }));
  return (
    <Column title="A single value for the whole map">
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
            onCommit={(next) => {
              onMoving(false);
              state.commit(withComponent(index, next));
            }}
          />
        );
      })}
    </Column>
  );
}
