// Buttons: one style for each role.
import type { ComponentProps } from "react";

const control =
  "inline-flex items-center gap-1.5 h-control px-3 rounded-md border font-medium whitespace-nowrap";
const field =
  "inline-flex h-field items-center justify-center gap-1.5 rounded-sm border border-rule bg-sheet text-list whitespace-nowrap hover:bg-card disabled:opacity-50";
const pressedInk = "aria-pressed:bg-ink aria-pressed:text-sheet";
const looks = {
  /** Primary action of a view: at most one at a time. */
  main: `${control} bg-copper text-white border-copper hover:bg-copper-deep disabled:bg-rule disabled:border-rule disabled:text-second`,
  plain: `${control} bg-sheet text-ink border-rule hover:bg-card disabled:text-second disabled:opacity-60`,
  bare: `${control} border-transparent text-second hover:text-ink hover:bg-sheet disabled:opacity-45 disabled:hover:bg-transparent`,
  /** Toggle button with the height of a field. */
  toggle: `${field} px-2 ${pressedInk}`,
  /** Toggle button with an icon only. */
  sign: `${field} w-field shrink-0 ${pressedInk}`,
  /** Tool button that is active while its tool is in use. */
  tool: `${field} px-2 aria-pressed:border-copper aria-pressed:bg-copper aria-pressed:text-white`,
  small: "rounded-sm border border-rule bg-sheet px-1.5 text-small hover:bg-card",
  link: "inline-flex items-center gap-1 underline underline-offset-2 hover:text-copper",
  quiet: "inline-flex items-center gap-1 text-second hover:text-ink",
  /** Destructive action. */
  away: "inline-flex items-center px-0.5 text-second hover:text-wrong",
} as const satisfies Record<string, string>;

export type Look = keyof typeof looks;

interface Props extends ComponentProps<"button"> {
  look?: Look;
}

/** Class names of a button, for links that look like one. */
export function buttonClass(look: Look = "plain"): string {
  return looks[look];
}

export function Button({ look = "plain", className = "", ...rest }: Props) {
  return <button type="button" className={`${looks[look]} ${className}`.trim()} {...rest} />;
}
