import { useState } from "react";

interface Props {
  label: string;
  value: string;
  onCommit: (value: string) => void;
}

/** Text field that commits with Enter or on blur; Escape restores the text. */
export function WordsField({ label, value, onCommit }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  function accept() {
    if (typed !== null && typed !== value) onCommit(typed);
    setTyped(null);
  }
  return (
    <input
      aria-label={label}
      className="h-field w-full rounded-sm border border-rule bg-card px-1.5"
      value={typed ?? value}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={accept}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setTyped(null);
      }}
    />
  );
}
