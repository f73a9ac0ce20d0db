// Virtualized tables, which only render visible rows.
const TRIES = 10; // maximum frames until a row that was scrolled to is rendered

/** Placeholder with the height of the rows that aren't rendered. */
export function MapGap({ height, across }: { height: number; across: number }) {
  if (height <= 0) return null;
  return (
    <tr>
      <td colSpan={across} style={{ height }} />
    </tr>
  );
}

/** Focus the row that was scrolled to, after it has rendered. */
export function focusOnceDrawn(within: HTMLElement | null, selector: string, tries = TRIES): void {
  const found = within?.querySelector<HTMLElement>(selector);
  if (found) found.focus({ preventScroll: true });
  else if (tries > 0) requestAnimationFrame(() => focusOnceDrawn(within, selector, tries - 1));
}
