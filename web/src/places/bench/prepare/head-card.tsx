// First card of the strip: the reference picture, and the preparation steps.
import { Link } from "react-router";
import type { GuideRead, Preparation } from "@/api/client";
import { activeSteps } from "./preparing";

interface Props {
  prepare: Preparation;
  guide: GuideRead | null;
  address: string;
  chosen: boolean;
}

export function PreparationCard({ prepare, guide, address, chosen }: Props) {
  const steps = activeSteps(prepare);
  return (
    <div className="flex shrink-0 items-end pb-px">
      <Link
        to={address}
        replace
        aria-current={chosen ? "true" : undefined}
        title="Straighten, crop, remove blemishes, delight, make tileable"
        className="flex h-16 w-37 items-start gap-2 rounded-md border border-rule bg-sheet p-1.5 aria-[current]:border-copper aria-[current]:bg-card aria-[current]:outline aria-[current]:outline-copper"
      >
        <span className="size-12.5 shrink-0 overflow-hidden rounded-sm bg-ground">
          {guide && (
            <img
              src={`/api/v1/sources/${guide.source}/thumbnail.png`}
              alt=""
              className="size-full object-cover"
            />
          )}
        </span>
        <span className="min-w-0 leading-tight">
          <span className="block truncate font-semibold">Source</span>
          <span className={`text-small ${steps ? "text-copper" : "text-second"}`}>
            {steps === 0 ? "◇ unchanged" : `◆ ${steps} ${steps === 1 ? "step" : "steps"}`}
          </span>
        </span>
      </Link>
      <span aria-hidden="true" className="grid h-16 w-4 place-items-center text-second">
        →
      </span>
    </div>
  );
}
