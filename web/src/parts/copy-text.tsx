// A text that is copied by a click.
import { Check, Copy } from "lucide-react";
import { useState } from "react";

const SAID_FOR = 1600; // milliseconds

interface Props {
  text: string;
  /** Shortened display text. */
  shown?: string;
  label: string;
}

export function CopyText({ text, shown, label }: Props) {
  const [copied, setCopied] = useState(false);
  return (
    <button
      type="button"
      title={`${label} ${text}`}
      className="flex min-w-0 items-center gap-1.5 text-left figures hover:text-copper"
      onClick={async () => {
        if (!(await copy(text))) return;
        setCopied(true);
        setTimeout(() => setCopied(false), SAID_FOR);
      }}
    >
      <span className="truncate">{shown ?? text}</span>
      {copied ? (
        <Check className="size-3.5 shrink-0 text-verdigris" aria-label="Copied" />
      ) : (
        <Copy className="size-3.5 shrink-0 text-second" aria-hidden="true" />
      )}
    </button>
  );
}

/** Without HTTPS the browser has no clipboard; the text is selected instead. */
async function copy(text: string): Promise<boolean> {
  try {
    await navigator.clipboard.writeText(text);
    return true;
  } catch {
    window.prompt("Copy this text", text);
    return false;
  }
}
