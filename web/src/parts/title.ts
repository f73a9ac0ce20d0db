import { useEffect } from "react";

/** Document title: from the specific to the general. */
export function useTitle(...parts: (string | undefined)[]) {
  const title = [...parts.filter(Boolean), "Copper Sieve"].join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
}
