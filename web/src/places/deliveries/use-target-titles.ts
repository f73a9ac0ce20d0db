// Titles of targets by id; a deleted target is shown by its id.
import { useQuery } from "@tanstack/react-query";
import { queries } from "@/api/queries";

export function useTargetTitles(): (id: string) => string {
  const { data: targets = [] } = useQuery(queries.targets());
  return (id) => targets.find((one) => one.id === id)?.title ?? id;
}
