// Banner shown while the server or its database is unreachable: state, and what happens to edits.
import { useQueryClient } from "@tanstack/react-query";
import { CloudOff } from "lucide-react";
import { useEffect } from "react";
import { useAway } from "@/api/away";

export function AwayBanner() {
  const { why, returns } = useAway();
  const client = useQueryClient();
  useEffect(() => {
    if (returns > 0) client.invalidateQueries();
  }, [returns, client]);
  if (why === null) return null;
  return (
    <p
      role="alert"
      className="flex shrink-0 items-center gap-2 border-b border-rule bg-ochre-pale px-4 py-1.5 text-ochre"
    >
      <CloudOff className="size-4 shrink-0" aria-hidden="true" />
      <span>
        <b>{why.replace(/[.:].*$/s, "")}.</b> Your changes are kept in this page and are saved when
        the server is reachable again. You don't need to reload.
      </span>
    </p>
  );
}
