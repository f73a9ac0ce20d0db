import { expect, it } from "vitest";
import { bordersInWords, bordersOf, wrapOf } from "./borders";

it("tells which borders meet, and back", () => {
  const known = [
    [true, "meet", "tiles both ways"],
    [false, "end", "borders end"],
    ["across", "across", "tiles across"],
    ["down", "down", "tiles down"],
  ] as const;
  for (const [wrap, borders, words] of known) {
    expect(bordersOf(wrap)).toBe(borders);
    expect(wrapOf(borders)).toBe(wrap);
    expect(bordersInWords(wrap)).toBe(words);
  }
});
