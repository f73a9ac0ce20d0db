import { useEffect } from "react";

/** What the browser's tab says: the parts from near to far. */
export function useTitle(...parts: (string | undefined)[]) {
  const title = [...parts.filter(Boolean), "Copper Sieve"].join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
}
