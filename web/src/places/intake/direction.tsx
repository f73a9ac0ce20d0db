// Green direction: the same map lit from above in both interpretations, to choose by eye.
import { Check } from "lucide-react";
import type { ArrivalRead } from "@/api/client";
import { Hint } from "@/parts/marks";

const readings = [
  { y: "up", label: "Y+ (green up)", sign: "Y+" },
  { y: "down", label: "Y− (green down)", sign: "Y−" },
] as const;

interface Props {
  row: ArrivalRead;
  onChoose: (y: "up" | "down") => void;
}

export function Direction({ row, onChoose }: Props) {
  const normal = row.normal;
  if (!normal) return null;
  const isMeasured = normal.measured === "up" || normal.measured === "down";
  return (
    <div className="flex items-center gap-2">
      <fieldset className="flex gap-1.5" aria-label={`Green channel of ${row.name}`}>
        {readings.map(({ y, label, sign }) => {
          const chosen = normal.y === y;
          return (
            <button
              key={y}
              type="button"
              aria-pressed={chosen}
              aria-label={`${sign} ${y}, lit from above`}
              title={label}
              onClick={() => onChoose(y)}
              className={`relative w-19 overflow-hidden rounded-sm border-2 ${
                chosen ? "border-copper" : "border-rule hover:border-second"
              }`}
            >
              <img
                src={`/api/v1/arrivals/${row.id}/lit-${y}.png`}
                alt=""
                loading="lazy"
                className="h-14.5 w-full bg-ground object-cover"
              />
              <span
                className={`flex items-center justify-center gap-1 text-note leading-4.5 ${
                  chosen ? "bg-copper text-white" : "bg-sheet text-second"
                }`}
              >
                {chosen && <Check className="size-3" aria-hidden="true" />}
                <span className="figures">{sign}</span> {y}
              </span>
            </button>
          );
        })}
      </fieldset>
      <Hint text={normal.reason}>
        <span className="w-32.5 text-note leading-snug text-second">
          {normal.decided_by === "user" && <span className="text-verdigris">set manually</span>}
          {normal.decided_by === "card" && (
            <span className="text-verdigris">from the source card</span>
          )}
          {normal.decided_by === "detected" &&
            (isMeasured ? (
              <>measured, {Math.round(normal.confidence * 100)} % confidence</>
            ) : (
              <span className="text-ochre">
                {normal.measured === "mixed" ? "mixed: both directions" : "undetermined"}
              </span>
            ))}
        </span>
      </Hint>
    </div>
  );
}
