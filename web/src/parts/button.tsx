import type { ComponentProps } from "react";

const looks = {
  main: "bg-copper text-white border-copper hover:bg-copper-deep disabled:bg-rule disabled:border-rule disabled:text-second",
  plain: "bg-sheet text-ink border-rule hover:bg-card disabled:text-second disabled:opacity-60",
  bare: "border-transparent text-second hover:text-ink hover:bg-sheet disabled:opacity-45 disabled:hover:bg-transparent",
} as const satisfies Record<string, string>;

interface Props extends ComponentProps<"button"> {
  look?: keyof typeof looks;
}

/** The class names of a button, for links that look like one. */
export function buttonClass(look: keyof typeof looks = "plain"): string {
  return `inline-flex items-center gap-1.5 h-[30px] px-3 rounded-md border font-medium whitespace-nowrap ${looks[look]}`;
}

export function Button({ look = "plain", className = "", ...rest }: Props) {
  return <button type="button" className={`${buttonClass(look)} ${className}`} {...rest} />;
}
