// One finding: severity symbol and word, message, and the measurements behind it.
import { CircleAlert, Info, TriangleAlert } from "lucide-react";
import type { ReactNode } from "react";
import type { FindingRead } from "@/api/client";

export const weights = {
  error: { Sign: CircleAlert, word: "Error", look: "text-wrong" },
  warning: { Sign: TriangleAlert, word: "Warning", look: "text-ochre" },
  info: { Sign: Info, word: "Info", look: "text-second" },
} as const;

interface Props {
  of: FindingRead;
  /** Number of affected sets, or the affected map. */
  about: string;
  children: ReactNode;
}

export function Finding({ of, about, children }: Props) {
  const { Sign, word, look } = weights[of.weight];
  return (
    <div className={`flex gap-2.5 ${of.ignored ? "opacity-60" : ""}`}>
      <Sign className={`mt-0.5 size-4 shrink-0 ${look}`} aria-hidden="true" />
      <div className="min-w-0 grow">
        <p className="flex items-baseline gap-2">
          <span className="font-semibold">{capital(of.title)}</span>
          <span className="text-small text-second">{about}</span>
          <span className={`ml-auto text-small whitespace-nowrap ${look}`}>
            {of.ignored ? "Ignored" : word}
          </span>
        </p>
        <p className="text-list">{capital(of.text)}.</p>
        <p className="text-small text-second figures">{capital(of.evidence)}.</p>
        <div className="mt-1.5 flex flex-wrap items-center gap-2">{children}</div>
      </div>
    </div>
  );
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
