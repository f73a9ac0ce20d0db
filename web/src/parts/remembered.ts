// View settings remembered in the browser's local storage.
import { useState } from "react";

const name = (key: string) => `copper-sieve/last/${key}`;

export function readRemembered(key: string): string | null {
  try {
    return localStorage.getItem(name(key));
  } catch {
    return null;
  }
}

export function remember(key: string, value: string): void {
  try {
    localStorage.setItem(name(key), value);
  } catch {
    // Without storage, the setting is forgotten.
  }
}

/** State that is remembered for the next visit. */
export function useRemembered(key: string): [string | null, (value: string) => void] {
  const [value, setValue] = useState(() => readRemembered(key));
  return [
    value,
    (next) => {
      remember(key, next);
      setValue(next);
    },
  ];
}
