// What the lit window costs, as it is felt; apart, so that who asks loads nothing of it.

export const frameTook = {
  /** Milliseconds from a frame's commands to their completion. */
  last: 0,
  /** Milliseconds for which the page answered nothing while the light took new maps. */
  blocked: 0,
};

/** Measure how long the page is held up by what comes next: uploads, mips, a frame. */
export function measureBlocking(): void {
  const began = performance.now();
  // The frame is drawn in an animation frame; a task behind it runs when the page is free again.
  requestAnimationFrame(() => {
    const frame = performance.now();
    setTimeout(() => {
      frameTook.blocked = performance.now() - frame;
      performance.measure("sieve:lit-cost", { start: began, end: performance.now() });
    });
  });
}
