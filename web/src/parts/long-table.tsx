// Tables of which only the rows in sight are there.
const TRIES = 10; // frames until a row that was scrolled to is drawn

/** The rows that are not there, as high as they would be. */
export function Gap({ height, across }: { height: number; across: number }) {
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
