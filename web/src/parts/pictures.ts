import { useQuery } from "@tanstack/react-query";
import { queries } from "@/api/queries";

/** What a file picker offers: pictures that can be read, and the same with what holds several. */
export function useEndings(): { pictures: string; takenIn: string } {
  const { data: vocabulary } = useQuery(queries.vocabulary());
  const pictures = (vocabulary?.endings ?? []).join(",");
  return { pictures, takenIn: [pictures, ".zip", ".glb", ".gltf"].join(",") };
}
