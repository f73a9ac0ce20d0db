// Texel density: median, and of the largest islands.
import type { UvRead } from "@/api/client";

const MOST = 6;

interface Props {
  uv: UvRead;
  shown: boolean;
  onShow: () => void;
}

export function Density({ uv, shown, onShow }: Props) {
  const rest = uv.count - Math.min(MOST, uv.islands.length);
  return (
    <div className="min-w-0 grow text-list">
      <button
        type="button"
        aria-pressed={shown}
        className="w-full rounded-sm px-1 text-left hover:bg-sheet aria-pressed:bg-sheet"
        onClick={onShow}
      >
        <span className="block text-small text-second">Density at {uv.side}²</span>
        <span className="figures">{texels(uv.middle)}</span>
        <span className="mt-1 flex h-2 overflow-hidden rounded-full">
          <span className="grow bg-[#a4512a]" />
          <span className="grow bg-[#96928c]" />
          <span className="grow bg-[#2c7767]" />
        </span>
        <span className="flex justify-between text-note text-second figures">
          <span>½</span>
          <span>median</span>
          <span>2×</span>
        </span>
      </button>
      <table className="mt-1.5 w-full figures">
        <tbody>
          {uv.islands.slice(0, MOST).map((one, n) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: islands have no other name
            <tr key={n} title={`${one.triangles} triangles${one.mirrored ? ", mirrored" : ""}`}>
              <td className="pl-1 text-second">
                {n + 1}
                {one.mirrored && <span title="mirrored"> ⇄</span>}
              </td>
              <td className="text-right">{(one.share * 100).toFixed(1)} %</td>
              <td className="pr-1 text-right">{Math.round(one.density).toLocaleString()}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {rest > 0 && <p className="pl-1 text-small text-second">and {rest} more islands</p>}
    </div>
  );
}

function texels(perMetre: number): string {
  return `${Math.round(perMetre).toLocaleString()} px/m`;
}
