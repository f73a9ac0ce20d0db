import { AlertTriangle, CheckCircle2, X } from "lucide-react";
import { create } from "zustand";
import { Button } from "./button";

interface Notice {
  id: number;
  tone: "good" | "wrong";
  text: string;
  /** Subject: a later notice about the same subject replaces this one. */
  cause?: string | undefined;
  action?: { label: string; run: () => void } | undefined;
}

interface Notices {
  list: Notice[];
  add: (notice: Omit<Notice, "id">) => void;
  /** Remove the notices of a cause that no longer exists. */
  dismissCause: (cause: string) => void;
  remove: (id: number) => void;
}

function without(list: Notice[], cause: string | undefined): Notice[] {
  return cause ? list.filter((one) => one.cause !== cause) : list;
}

const GOOD_STAYS = 5000;
const UNDO_STAYS = 20_000; // longer if it can be undone
let last = 0;

export const useNotices = create<Notices>((set) => ({
  list: [],
  add: (notice) => {
    last += 1;
    const id = last;
    set((state) => ({ list: [...without(state.list, notice.cause).slice(-3), { ...notice, id }] }));
    const stays = notice.action ? UNDO_STAYS : GOOD_STAYS;
    if (notice.tone === "good")
      setTimeout(() => set((s) => ({ list: s.list.filter((one) => one.id !== id) })), stays);
  },
  dismissCause: (cause) => set((state) => ({ list: without(state.list, cause) })),
  remove: (id) => set((state) => ({ list: state.list.filter((one) => one.id !== id) })),
}));

export function notify(
  tone: Notice["tone"],
  text: string,
  action?: Notice["action"],
  cause?: string,
): void {
  useNotices.getState().add({ tone, text, action, cause });
}

/** Remove the notices of a cause that no longer exists. */
export function dismissCause(cause: string): void {
  useNotices.getState().dismissCause(cause);
}

/** Success notices disappear after a while; errors stay until dismissed. */
export function NoticeStack() {
  const { list, remove } = useNotices();
  return (
    <div aria-live="polite" className="fixed bottom-17 right-4 z-40 flex w-95 flex-col gap-2">
      {list.map((notice) => (
        <div
          key={notice.id}
          role={notice.tone === "wrong" ? "alert" : "status"}
          className={`flex items-start gap-2 rounded-md border bg-card px-3 py-2.5 ${
            notice.tone === "wrong" ? "border-wrong" : "border-verdigris"
          }`}
        >
          {notice.tone === "wrong" ? (
            <AlertTriangle className="mt-0.5 size-4 shrink-0 text-wrong" aria-label="wrong" />
          ) : (
            <CheckCircle2 className="mt-0.5 size-4 shrink-0 text-verdigris" aria-label="good" />
          )}
          <p className="grow">
            {notice.text}{" "}
            {notice.action && (
              <Button
                look="link"
                className="font-medium text-copper"
                onClick={() => {
                  notice.action?.run();
                  remove(notice.id);
                }}
              >
                {notice.action.label}
              </Button>
            )}
          </p>
          <button type="button" aria-label="Close" onClick={() => remove(notice.id)}>
            <X className="size-4 text-second" />
          </button>
        </div>
      ))}
    </div>
  );
}
