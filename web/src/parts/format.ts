// Formatting of numbers and sizes.

export function bytes(count: number): string {
  const units = ["B", "kB", "MB", "GB"];
  let value = count;
  let unit = 0;
  while (value >= 1000 && unit < units.length - 1) {
    value /= 1000;
    unit += 1;
  }
  return `${value.toFixed(unit === 0 || value >= 100 ? 0 : 1)} ${units[unit]}`;
}

/** "1 set", "2 sets". */
export function counted(count: number, noun: string): string {
  return `${count} ${noun}${count === 1 ? "" : "s"}`;
}

export function texels(width: number, height: number): string {
  return width === height ? `${width}²` : `${width} × ${height}`;
}

export function metres(value: number): string {
  if (value < 0.01) return `${(value * 1000).toFixed(1)} mm`;
  if (value < 0.1) return `${(value * 100).toFixed(1)} cm`;
  return `${value.toFixed(2)} m`;
}

export function when(iso: string): string {
  return new Date(iso).toLocaleString(undefined, {
    month: "short",
    day: "numeric",
    hour: "2-digit",
    minute: "2-digit",
  });
}

/** A folder relative to the delivery root; the tooltip has the full path. */
export function underRoot(folder: string, root: string | undefined): string {
  return root && folder.startsWith(`${root}/`) ? folder.slice(root.length + 1) : folder;
}

export function words(kind: string): string {
  return kind.replaceAll("_", " ");
}

/** A file's name without its extension. */
export function withoutEnding(name: string): string {
  return name.replace(/\.\w+$/, "");
}
