// Tile number of a file: detected from its name and the other files; can be changed or removed.
import type { ArrivalRead, AssignmentChange } from "@/api/client";
import { Button } from "@/parts/button";
import { NumberField } from "@/parts/number-field";

interface Props {
  row: ArrivalRead;
  onChange: (change: AssignmentChange) => void;
}

export function TileOfFile({ row, onChange }: Props) {
  const { tile, number } = row;
  if (tile === null) {
    if (number === null) return null;
    return (
      <Button
        look="link"
        className="text-small text-copper"
        title="Numbered tiles (UDIM) of one set: 1001 is the first, 1002 is to its right, 1011 above it"
        onClick={() => onChange({ tile: number })}
      >
        use as tile {number}
      </Button>
    );
  }
  return (
    <span className="flex items-center gap-2 text-small">
      tile
      <span className="w-16">
        <NumberField
          label={`Tile of ${row.name}`}
          value={tile}
          low={1001}
          high={9999}
          places={0}
          step={1}
          onCommit={(next) => onChange({ tile: next })}
        />
      </span>
      <Button
        look="link"
        className="text-copper"
        title="The number isn't a tile number. Import the file as a separate set."
        onClick={() => onChange({ tile: 0 })}
      >
        not a tile
      </Button>
    </span>
  );
}
