// Two materials side by side on the same shape, under the same light and camera.
import { useMemo, useState } from "react";
import type { SurfaceSpec } from "@/api/client";
import { Segmented } from "@/parts/segmented";
import type { Pictures } from "@/places/bench/picture-cache";
import { type EnvironmentView, type Shape, shapes } from "./choices";
import { EnvironmentChoice } from "./environment-choice";
import { type Light, LightDial } from "./light-dial";
import { Eye } from "./shared-camera";
import { Stage } from "./stage";
import { useEnvironment } from "./use-environment";

interface Props {
  sides: { title: string; pictures: Pictures }[];
  surface: SurfaceSpec;
  aspect: number;
}

export default function LitPair({ sides, surface, aspect }: Props) {
  const eye = useMemo(() => new Eye(), []);
  const [shape, setShape] = useState<Shape>(surface.wrap ? "sphere" : "plane");
  const environment = useEnvironment();
  const [light, setLight] = useState<Light>({ azimuth: 128, elevation: 42 });
  const common = { shape, around: environment.view, light, surface, aspect, eye };
  return (
    <div>
      <div className="mb-2 flex items-center gap-2">
        <Segmented label="Shape" value={shape} options={shapes} onChange={setShape} />
        <EnvironmentChoice {...environment} />
        <span className="text-small text-second">
          Drag in a view to rotate both; drag the light to light both.
        </span>
      </div>
      <div className="grid grid-cols-2 gap-3">
        {sides.map((one, n) => (
          <figure key={one.title} className="relative h-[min(52vh,460px)]">
            <Side title={one.title} pictures={one.pictures} {...common} />
            <figcaption className="absolute top-2 left-2 rounded-sm bg-ink/85 px-1.5 text-small text-sheet">
              {one.title}
            </figcaption>
            {n === sides.length - 1 && <LightDial light={light} onTurn={setLight} />}
          </figure>
        ))}
      </div>
    </div>
  );
}

function Side({
  title,
  pictures,
  ...stage
}: {
  title: string;
  pictures: Pictures;
  shape: Shape;
  around: EnvironmentView;
  light: Light;
  surface: SurfaceSpec;
  aspect: number;
  eye: Eye;
}) {
  const [drawn, setDrawn] = useState("");
  return (
    <section
      aria-label={`Lit, ${title}`}
      data-drawn={drawn}
      className="size-full overflow-hidden rounded-sm bg-ground"
    >
      <Stage
        {...stage}
        repeat={1}
        displaced={false}
        model={null}
        pictures={pictures}
        onDrawn={setDrawn}
      />
    </section>
  );
}
