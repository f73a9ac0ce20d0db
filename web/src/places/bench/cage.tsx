// Matching with the high-poly model: by rays from a cage, or by UVs; and the missed area.
import { useQuery } from "@tanstack/react-query";
import type { ModelLink } from "@/api/client";
import { queries } from "@/api/queries";
import { Button } from "@/parts/button";
import { DialField } from "@/parts/dial-field";
import { PicturePopover } from "@/parts/picture-popover";
import { Segmented } from "@/parts/segmented";
import { Column } from "./column";
import { asked, type Change, type Draft } from "./use-draft";

interface Props {
  setId: number;
  draft: Draft;
  /** The pointer is dragging; the measurement waits. */
  moving: boolean;
  onMove: (change: Change) => void;
  onCommit: (change: Change) => void;
}

/** Above this share of misses, the cage is too close. */
const MANY = 0.01;
const MM = 1000;

/** Change a set's link to its model; unchanged if it isn't linked. */
function tied(part: Partial<NonNullable<Draft["model"]>>): Change {
  return (draft) => (draft.model ? { ...draft, model: { ...draft.model, ...part } } : draft);
}

export function Cage({ setId, draft, moving, onMove, onCommit }: Props) {
  const { data, error } = useQuery(queries.rayMisses(setId, moving ? null : asked(draft)));
  const link = draft.model;
  if (!link) return null;
  const measured = !link.cage;
  const shown = link.cage ?? data?.cage ?? 0;
  return (
    <Column title="High-poly model">
      <div className="mb-1.5 flex items-center justify-between gap-2">
        <span title="Match by UVs where the high-poly model is a subdivision of this model">
          Match by
        </span>
        <Segmented
          label="Match by"
          value={link.match_by_uvs ? "uvs" : "rays"}
          options={[
            { value: "rays", label: "rays" },
            { value: "uvs", label: "UVs" },
          ]}
          onChange={(next) => onCommit(tied({ match_by_uvs: next === "uvs" }))}
        />
      </div>
      {!link.match_by_uvs && (
        <>
          <DialField
            label="Cage"
            hint="ray start distance outside the model; rays reach equally far inside"
            unit="mm"
            value={shown * MM}
            low={0}
            high={Math.max(1, (data?.widest ?? 0.1) * MM)}
            initial={0}
            onMove={(mm) => onMove(tied({ cage: mm > 0 ? mm / MM : null }))}
            onCommit={(mm) => onCommit(tied({ cage: mm > 0 ? mm / MM : null }))}
          />
          <p className="ml-23 flex items-center gap-2 text-small text-second">
            {measured ? "measured" : "set manually"}
            {!measured && (
              <Button look="link" onClick={() => onCommit(tied({ cage: null }))}>
                measure
              </Button>
            )}
          </p>
        </>
      )}
      <div className="mt-1.5 flex items-center justify-between gap-2">
        <span title="Only parts of both models that have the same name are matched">
          Match parts by name
        </span>
        <Segmented
          label="Match parts by name"
          value={link.match_by_name ? "yes" : "no"}
          options={[
            { value: "no", label: "off" },
            { value: "yes", label: "on" },
          ]}
          onChange={(next) => onCommit(tied({ match_by_name: next === "yes" }))}
        />
      </div>
      {error && <p className="mt-1.5 text-small text-ochre">{error.message}</p>}
      {!error && data && <Misses share={data.share} picture={data.picture} link={link} />}
    </Column>
  );
}

interface MissesProps {
  share: number;
  picture: string | null;
  link: ModelLink;
}

function Misses({ share, picture, link }: MissesProps) {
  const uvs = link.match_by_uvs;
  const missed = `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;
  return (
    <div className="mt-1.5 flex items-center gap-2 text-small" aria-live="polite">
      {picture && (
        <PicturePopover
          picture={picture}
          label="Ray misses"
          title="Show where rays missed the high-poly model"
        >
          Red: no high-poly surface was found. These texels are filled from their neighbors.
        </PicturePopover>
      )}
      {share === 0 ? (
        <p className="text-verdigris">✓ {uvs ? "all texels matched" : "no ray misses"}</p>
      ) : (
        <p className={share > MANY ? "text-ochre" : "text-second"}>
          <span className="figures">{missed}</span>{" "}
          {uvs ? "of texels without high-poly surface" : "ray misses"}{" "}
          {share > MANY && !uvs && ": increase the cage distance"}{" "}
          {share > MANY && !uvs && !link.match_by_name && ", or match parts by name"}{" "}
          {share > MANY && uvs && ": the high-poly model has no UVs there"}
        </p>
      )}
    </div>
  );
}
