// The project's models with this delivery's textures embedded.
import { useQuery } from "@tanstack/react-query";
import { Box } from "lucide-react";
import { queries } from "@/api/queries";
import { buttonClass } from "@/parts/button";
import { useTargetTitles } from "./use-target-titles";

export function TexturedModels({ deliveryId }: { deliveryId: number }) {
  const { data: models = [] } = useQuery(queries.texturedModels(deliveryId));
  const titleOf = useTargetTitles();
  if (models.length === 0) return null;
  return (
    <section aria-label="Models with these textures" className="mb-4 flex flex-col gap-2">
      {models.map((one) => (
        <div
          key={one.address}
          className="flex flex-wrap items-center gap-3 rounded-md border border-rule bg-card px-4 py-2.5"
        >
          <Box className="size-4 text-second" aria-hidden="true" />
          <span>
            <span className="font-semibold">{one.model}</span> with {one.sets}{" "}
            {one.sets === 1 ? "set" : "sets"} for {titleOf(one.target_id)} embedded
            {one.ending === "glb" ? "; the rest of the file is unchanged" : ", as USD"}
            {one.missing.length > 0 && (
              <span className="text-ochre"> · missing {one.missing.join(", ")}</span>
            )}
          </span>
          <span className="ml-auto" />
          <a className={buttonClass("plain")} href={one.address} download={one.name}>
            Download {one.name}
          </a>
          {one.ending === "glb" && (
            <a
              className={buttonClass("quiet")}
              href={`${one.address}?tangents=true`}
              download={one.name}
              title="Contains the MikkTSpace tangents that the maps were made for"
            >
              with tangents
            </a>
          )}
        </div>
      ))}
    </section>
  );
}
