// Progress of a preview that takes over a second: step, remaining time, cancel.
import { useCallback, useEffect, useRef, useState } from "react";
import { answer, api, done, type ProgressRead } from "@/api/client";

const LONG = 1000;
const EVERY = 400;

export interface Waiting {
  /** Current step; null unless a preview takes long. */
  underWay: ProgressRead | null;
  /** Canceled: the displayed preview belongs to an earlier draft or a smaller size. */
  stopped: boolean;
  stop: () => void;
  /** Resume after a cancel. */
  again: () => void;
  /** Changes when it is resumed. */
  round: number;
  /** A draft is requested. */
  begun: () => void;
  isStopped: () => boolean;
}

/** `settled`: no computation is running. */
export function useWaiting(window: string, settled: boolean): Waiting {
  const [underWay, setUnderWay] = useState<ProgressRead | null>(null);
  const [stopped, setStopped] = useState(false);
  const [round, setRound] = useState(0);
  const giveUp = useRef(false);
  useEffect(() => {
    setUnderWay(null);
    if (settled) return;
    let timer = setTimeout(look, LONG);
    let ended = false;
    async function look() {
      const call = api.GET("/api/v1/previews/{window}", { params: { path: { window } } });
      const found = await answer(call).catch(() => null);
      if (ended) return;
      setUnderWay(found);
      timer = setTimeout(look, EVERY);
    }
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [window, settled]);
  const stop = useCallback(() => {
    giveUp.current = true;
    setStopped(true);
    const call = api.POST("/api/v1/previews/{window}/stop", { params: { path: { window } } });
    void done(call).catch(() => undefined);
  }, [window]);
  const begun = useCallback(() => {
    giveUp.current = false;
    setStopped(false);
  }, []);
  const again = useCallback(() => setRound((now) => now + 1), []);
  const isStopped = useCallback(() => giveUp.current, []);
  return { underWay, stopped, stop, again, round, begun, isStopped };
}

/** As text: step, progress and remaining time. */
export function waitingText({ step, share, seconds_left: left }: ProgressRead): string {
  const far = `${Math.round(share * 100)} %`;
  if (left === null) return `${step}, ${far}`;
  const yet = left < 1.5 ? "almost done" : `about ${Math.round(left)} s left`;
  return `${step}, ${far}, ${yet}`;
}
