// Refetch intervals in milliseconds.
export const BUSY_EVERY = 400;
export const SOON_EVERY = 1500;
export const CALM_EVERY = 5000;
