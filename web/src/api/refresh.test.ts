import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";
import { refresh } from "./refresh";

test("an answer that was read before the change is not taken for the new one", async () => {
  const client = new QueryClient();
  const answers: ((table: string) => void)[] = [];
  const queryFn = () => new Promise<string>((answered) => answers.push(answered));
  const watched = new QueryObserver(client, { queryKey: ["intake"], queryFn });
  const leave = watched.subscribe(() => undefined);
  expect(answers).toHaveLength(1);

  const refreshed = refresh(client, ["intake"]); // a file has been added
  await expect.poll(() => answers.length).toBe(2);
  answers[0]?.("without the file");
  answers[1]?.("with the file");
  await refreshed;
  expect(client.getQueryData(["intake"])).toBe("with the file");
  leave();
});
