// Progress bar; indeterminate without a value.
interface Props {
  label: string;
  /** In percent; null: indeterminate. */
  share: number | null;
}

export function ProgressBar({ label, share }: Props) {
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      {...(share === null ? {} : { "aria-valuenow": share })}
      className="h-1.5 w-full overflow-hidden rounded-full bg-rule"
    >
      {share === null ? (
        <div className="h-full w-1/4 animate-sweep rounded-full bg-verdigris" />
      ) : (
        <div
          className="h-full bg-verdigris transition-[width] duration-300"
          style={{ width: `${share}%` }}
        />
      )}
    </div>
  );
}
