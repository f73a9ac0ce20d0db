import { expect, it } from "vitest";
import type { FindingRead } from "@/api/client";
import { byRule } from "./use-checklists";

function finding(rule: FindingRead["rule"], more: Partial<FindingRead> = {}): FindingRead {
  return {
    key: `${rule}:normal`,
    rule,
    kind: "normal",
    title: rule,
    weight: "info",
    text: "",
    evidence: "",
    fix: null,
    ignored: false,
    ...more,
  };
}

it("puts the gravest first, then what most sets have, and leaves out what is on purpose", () => {
  const lists = [
    {
      set_id: 1,
      findings: [finding("vector_length"), finding("green_direction", { weight: "error" })],
    },
    { set_id: 2, findings: [finding("not_tileable"), finding("vector_length")] },
    { set_id: 3, findings: [finding("not_tileable", { ignored: true })] },
  ];
  expect(byRule(lists).map((one) => [one.finding.rule, one.ids])).toEqual([
    ["green_direction", [1]],
    ["vector_length", [1, 2]],
    ["not_tileable", [2]],
  ]);
});

it("counts a set once, and keeps apart what is mended in different ways", () => {
  const down = finding("green_direction", { fix: "down" });
  const lists = [
    { set_id: 1, findings: [down, { ...down, key: "green_direction:bent_normal" }] },
    { set_id: 2, findings: [finding("green_direction", { fix: "up" })] },
  ];
  expect(byRule(lists).map((one) => one.ids)).toEqual([[1], [2]]);
});
