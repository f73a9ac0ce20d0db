import { useQuery } from "@tanstack/react-query";
import { queries } from "@/api/queries";

/** File types for file pickers: readable pictures, and the same with multi-image files. */
export function useEndings(): { pictures: string; takenIn: string } {
  const { data: vocabulary } = useQuery(queries.vocabulary());
  const pictures = (vocabulary?.endings ?? []).join(",");
  return { pictures, takenIn: [pictures, ".zip", ".glb", ".gltf"].join(",") };
}
