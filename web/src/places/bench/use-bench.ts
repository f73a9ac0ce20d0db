// State and actions of the set editor for one set: draft, previews, selection, color picker.
import { useEffect, useMemo, useRef, useState } from "react";
import { useLocation, useNavigate, useParams } from "react-router";
import type { MapKind, ModelLink, OperationRead, SetRead, VocabularyRead } from "@/api/client";
import { useProject } from "@/app";
import type { ModelOnStage } from "@/lit/stage";
import { withMasks } from "@/parts/kinds";
import { remember } from "@/parts/remembered";
import { type Sheet, sheetFrom } from "@/parts/sheet";
import { useLatest } from "@/parts/use-latest";
import { withColor } from "./colors-field";
import type { About } from "./interpretations";
import type { IslandsOfSet } from "./islands/island-layer";
import { type Place, placeAt } from "./islands/place-at";
import { editing, operationOf } from "./map-definitions";
import { type Tool, widthOf } from "./prepare/preparing";
import { type Draft, useDraft } from "./use-draft";
import { useModel } from "./use-model";
import { usePreview } from "./use-preview";

/** Longer side of pictures at rest, in texels. */
export const FULL_SIDE = 1024;
/** Address segment of the preparation, in place of a map. */
const PREPARE = "prepare";

export type BenchState = ReturnType<typeof useBench>;

export function useBench(set: SetRead, declared: VocabularyRead) {
  const project = useProject();
  const place = useParams().kind;
  const navigate = useNavigate();
  const state = useDraft(set, project);
  const begins = useLocation().state as { isNew?: boolean; checklist?: boolean } | null;
  const [moving, setMoving] = useState(false);
  const [tool, setTool] = useState<Tool | null>(null);
  const [readings, setReadings] = useState<About | null>(begins?.isNew === true ? "relief" : null);
  const [recipes, setRecipes] = useState(false);
  const [checklist, setChecklist] = useState(begins?.checklist === true);
  const [guideKind, setGuideKind] = useState<MapKind>();
  const seenSide = useRef(FULL_SIDE);
  const kinds = Object.keys(state.draft.maps) as MapKind[];
  const used = kinds.join(" ");
  const vocabulary = useMemo(() => withMasks(declared, used.split(" ")), [declared, used]);
  const prepares = place === PREPARE;
  const usual = prepares ? (guideKind ?? kinds[0]) : (kinds[1] ?? kinds[0]);
  const chosen = kinds.find((one) => one === place) ?? usual;
  const preview = usePreview({
    set,
    draft: state.draft,
    moving,
    fullSide: FULL_SIDE,
    focus: chosen,
    seenSide,
    whole: prepares,
  });
  const guide = preview.facts.guide?.kind;
  useEffect(() => setGuideKind(guide), [guide]);
  useEffect(() => remember(`bench/${project}`, String(set.id)), [project, set.id]);
  const kind = vocabulary.kinds.find((one) => one.kind === chosen);
  const definition = chosen && state.draft.maps[chosen];
  const operation =
    kind && definition?.how === "derived"
      ? operationOf(vocabulary.operations, definition.operation, kind)
      : undefined;
  const sheet = useMemo(() => sheetFrom(preview.facts.sheet), [preview.facts.sheet]);
  const standing = useStanding(project, set.id, state.draft.model, sheet);
  const [parameter, setParameter] = useState<string | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another map ends picking
  useEffect(() => setParameter(null), [chosen, operation?.name]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another card ends the tools
  useEffect(() => setTool(null), [place]);
  useEscape(() => {
    setParameter(null);
    setTool(null);
    setReadings(null);
    setChecklist(false);
  });

  function pick(color: string) {
    const asked = operation?.parameters.find((one) => one.name === parameter);
    if (!kind || definition?.how !== "derived" || !asked) return;
    state.commit(
      editing(kind.kind, definition, (now) => {
        const had = String(now.parameters?.[asked.name] ?? asked.default);
        const value = withColor(had, color, asked.most);
        return { ...now, parameters: { ...now.parameters, [asked.name]: value } };
      }),
    );
    if (asked.most === 1) setParameter(null);
  }

  const addressOf = (one: MapKind | typeof PREPARE) => `/${project}/bench/${set.id}/${one}`;
  const titleOf = (one: MapKind) => vocabulary.kinds.find((k) => k.kind === one)?.title ?? one;
  return {
    ...{ set, vocabulary, project, state, preview, kinds, kind, definition, operation, prepares },
    ...standing,
    sheet,
    surface: useSurface(state.draft, preview.facts),
    isRead: readsPhoto(state.draft),
    deliver: `/${project}/deliveries?sets=${set.id}`,
    prepare: addressOf(PREPARE),
    open: (one: MapKind | typeof PREPARE) => navigate(addressOf(one), { replace: true }),
    ...{ addressOf, titleOf, seenSide, moving, setMoving, tool, setTool },
    ...{ readings, setReadings, recipes, setRecipes, checklist, setChecklist },
    picking: { parameter, pick: setParameter, take: pick, from: pickedFrom(operation, titleOf) },
  };
}

/** Model of the preview and overlay of the map view; null without a model. */
function useStanding(project: string, setId: number, link: ModelLink | null, sheet: Sheet | null) {
  const { found, waiting } = useModel(project, setId, link, sheet);
  const [mark, setMark] = useState<Place | null>(null);
  const onModel = useMemo<ModelOnStage | null>(
    () =>
      found && {
        mesh: found.mesh,
        material: found.link.material ?? null,
        others: found.others,
        mark,
      },
    [found, mark],
  );
  const islands = useMemo<IslandsOfSet | null>(() => {
    if (!found || found.model.uv_sets === 0) return null;
    const { mesh, model, link } = found;
    const material = link.material ?? null;
    return {
      ...{ mesh, material, sheet, modelId: model.id, uvSet: link.uv_set },
      onPoint: (point) => setMark(point && placeAt(mesh, material, point.u, point.v)),
    };
  }, [found, sheet]);
  const name = found && (found.link.material ?? "all");
  return { onModel, islands, waiting, madeFor: found && `${found.model.name} · ${name}` };
}

/**
 * The surface of the draft: depth as stated or as last measured; width and tiling as prepared. The
 * identity stays the same while it is unchanged, because the lit view renders a frame for every new
 * object, and a frame may block the page.
 */
function useSurface(draft: Draft, facts: ReturnType<typeof usePreview>["facts"]) {
  const depth = draft.surface.depth ?? facts.surface.depth ?? null;
  const { wrap, relief } = facts.surface;
  const tile_size = widthOf(draft, facts);
  return useMemo(() => ({ depth, tile_size, wrap, relief }), [depth, tile_size, wrap, relief]);
}

function useEscape(end: () => void) {
  const latest = useLatest(end);
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => event.key === "Escape" && latest.current();
    addEventListener("keydown", pressed);
    return () => removeEventListener("keydown", pressed);
  }, [latest]);
}

/** Name of the color picker's source. */
function pickedFrom(operation: OperationRead | undefined, titleOf: (kind: MapKind) => string) {
  const input = operation?.inputs[0];
  return input ? titleOf(input) : (operation?.slots[0]?.label ?? "the picture");
}

/** The height is derived from color: relief, light and direction are interpretations. */
function readsPhoto({ maps: { height } }: Draft): boolean {
  return height?.how === "derived" && height.operation === "height_from_color";
}
