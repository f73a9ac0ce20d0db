// Files being imported: dropped, pasted or chosen, with their folders, a few at a time.
import type { QueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { create } from "zustand";
import { addArrival, type HealthRead } from "@/api/client";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { bytes } from "@/parts/format";
import { notify } from "@/parts/notices";
import { useLatest } from "@/parts/use-latest";

const AT_ONCE = 5;
const SHOW_EVERY = 1500; // milliseconds

export interface Incoming {
  file: File;
  /** Path including the dropped folders. */
  path: string;
}

interface Arriving {
  total: number;
  done: number;
  bytes: number;
  /** Rejected files of the last drop, with the server's messages. */
  refused: { name: string; message: string }[];
}

export const useUploads = create<Arriving>(() => ({ total: 0, done: 0, bytes: 0, refused: [] }));

/** Whether files go to Intake; a single picture can become a set directly. */
export function needsSorting(files: Incoming[]): boolean {
  return files.length > 1 || files.some(({ path }) => /\.(zip|glb|gltf)$/i.test(path));
}

/** Why a file isn't uploaded; null if it can be. */
export function refusal(file: { name: string; size: number }, health: HealthRead): string | null {
  if (file.size === 0) return `${file.name} is empty. Export or copy the file again`;
  const most = health.limits.max_bytes;
  if (file.size > most)
    return `${file.name} is ${bytes(file.size)}; the limit is ${bytes(most)}. Reduce the file or raise SIEVE_MAX_BYTES`;
  return null;
}

/** Upload files to Intake, a few at a time, and refetch its table. */
export async function arrive(client: QueryClient, project: string, files: Incoming[]) {
  const onSome = () => void refresh(client, ["intake", project]);
  const batch = crypto.randomUUID();
  const before = useUploads.getState();
  const running = before.done < before.total;
  useUploads.setState({
    total: (running ? before.total : 0) + files.length,
    done: running ? before.done : 0,
    refused: running ? before.refused : [],
  });
  const health = await client.ensureQueryData(queries.health());
  const queue = [...files];
  let shown = performance.now();
  const refuse = (name: string, message: string) =>
    useUploads.setState((now) => ({ refused: [...now.refused, { name, message }] }));
  async function sendNext(): Promise<void> {
    const next = queue.shift();
    if (!next) return;
    try {
      const why = refusal(next.file, health);
      if (why) throw new Error(why);
      const added = await addArrival(project, next.file, next.path, batch);
      for (const one of added.refused) refuse(one.name, one.message);
    } catch (error) {
      refuse(
        next.path,
        error instanceof Error ? error.message : `${next.path} couldn't be uploaded`,
      );
    }
    useUploads.setState((now) => ({ done: now.done + 1 }));
    if (performance.now() - shown > SHOW_EVERY) {
      shown = performance.now();
      onSome();
    }
    return sendNext();
  }
  await Promise.all(Array.from({ length: AT_ONCE }, sendNext));
  onSome();
  const { refused } = useUploads.getState();
  for (const one of refused.slice(0, 3)) notify("wrong", one.message);
}

async function filesOf(entry: FileSystemEntry, folder: string): Promise<Incoming[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((found, failed) =>
      (entry as FileSystemFileEntry).file(found, failed),
    );
    return [{ file, path: folder + file.name }];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const inside: Incoming[] = [];
  for (;;) {
    // A reader returns at most a hundred entries at a time.
    const some = await new Promise<FileSystemEntry[]>((found, failed) =>
      reader.readEntries(found, failed),
    );
    if (some.length === 0) return inside;
    for (const one of some)
      if (!one.name.startsWith("."))
        inside.push(...(await filesOf(one, `${folder}${entry.name}/`)));
  }
}

/** The files of a drop or a paste, including those in folders. */
export async function incoming(transfer: DataTransfer | null): Promise<Incoming[]> {
  const entries = [...(transfer?.items ?? [])].map((item) => item.webkitGetAsEntry?.() ?? null);
  if (entries.some((entry) => entry?.isDirectory))
    return (await Promise.all(entries.map((entry) => (entry ? filesOf(entry, "") : [])))).flat();
  return picked(transfer?.files);
}

/** The files of a file picker or folder picker. */
export function picked(files: FileList | null | undefined): Incoming[] {
  return [...(files ?? [])].map((file) => ({ file, path: file.webkitRelativePath || file.name }));
}

/** Call `take` with files that are dropped or pasted on the page. */
export function useUploadState(take: (files: Incoming[]) => void, onOver: (over: boolean) => void) {
  const latest = useLatest({ take, onOver });
  useEffect(() => {
    const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;
    const enter = (event: DragEvent) => {
      if (!hasFiles(event)) return;
      event.preventDefault();
      latest.current.onOver(true);
    };
    const leave = (event: DragEvent) =>
      event.relatedTarget === null && latest.current.onOver(false);
    const bring = async (event: Event, transfer: DataTransfer | null) => {
      const files = incoming(transfer);
      event.preventDefault();
      latest.current.onOver(false);
      const found = await files;
      if (found.length > 0) latest.current.take(found);
    };
    const drop = (event: DragEvent) => {
      if (hasFiles(event)) void bring(event, event.dataTransfer);
    };
    const paste = (event: ClipboardEvent) => {
      if (event.clipboardData?.files.length) void bring(event, event.clipboardData);
    };
    addEventListener("dragenter", enter);
    addEventListener("dragover", enter);
    addEventListener("dragleave", leave);
    addEventListener("drop", drop);
    addEventListener("paste", paste);
    return () => {
      removeEventListener("dragenter", enter);
      removeEventListener("dragover", enter);
      removeEventListener("dragleave", leave);
      removeEventListener("drop", drop);
      removeEventListener("paste", paste);
    };
  }, [latest]);
}
