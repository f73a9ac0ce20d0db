import { type RefObject, useLayoutEffect, useRef } from "react";

/** Ref to the newest value for listeners, timers and responses. Not for rendering. */
export function useLatest<T>(value: T): Readonly<RefObject<T>> {
  const latest = useRef(value);
  useLayoutEffect(() => {
    latest.current = value;
  }, [value]);
  return latest;
}
