// How long the last frame of the lit window took; apart, so that who asks loads nothing of it.

/** Milliseconds from a frame's commands to their completion. */
export const frameTook = { last: 0 };
