// Connection state: set by any failed call, then polled until the server responds again.
import { create } from "zustand";

const ASK_EVERY = 1000;

interface Away {
  /** Why the server can't be used; null while it can. */
  why: string | null;
  /** Number of reconnections. */
  returns: number;
  noticed: (why: string) => void;
}

export const useAway = create<Away>((set, get) => ({
  why: null,
  returns: 0,
  noticed: (why) => {
    const asking = get().why !== null;
    if (get().why !== why) set({ why });
    if (asking) return;
    const ask = async () => {
      const response = await fetch("/api/v1/health").catch(() => null);
      if (response?.ok) {
        set((state) => ({ why: null, returns: state.returns + 1 }));
        return;
      }
      if (response?.status === 401) location.reload();
      if (response?.status === 503) {
        const body = (await response.json().catch(() => ({}))) as { detail?: string };
        if (body.detail) set({ why: body.detail });
      } else if (!response) set({ why: "The server is unreachable." });
      setTimeout(() => void ask(), ASK_EVERY);
    };
    setTimeout(() => void ask(), ASK_EVERY);
  },
}));
