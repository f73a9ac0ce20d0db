import { type RefObject, useLayoutEffect, useRef } from "react";

/** The newest value, for what runs later: a listener, a timer, an answer. Not for rendering. */
export function useLatest<T>(value: T): Readonly<RefObject<T>> {
  const latest = useRef(value);
  useLayoutEffect(() => {
    latest.current = value;
  }, [value]);
  return latest;
}
