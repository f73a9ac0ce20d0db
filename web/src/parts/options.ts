/** Cyclic selection of the next option. */
export function following<T extends string>(options: readonly { value: T }[], now: T): T {
  const index = options.findIndex((one) => one.value === now);
  return (options[(index + 1) % options.length] as { value: T }).value;
}
