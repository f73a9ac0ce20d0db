// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeAll, expect, it, vi } from "vitest";
import { stubResizeObserver } from "@/testing/resize-observer";
import { DialField } from "./dial-field";

beforeAll(stubResizeObserver);
afterEach(cleanup);

function field() {
  const onMove = vi.fn();
  const onCommit = vi.fn();
  render(
    <DialField
      label="Strength"
      hint="how strong"
      value={1}
      low={0}
      high={8}
      initial={2}
      onMove={onMove}
      onCommit={onCommit}
    />,
  );
  const box = screen.getByLabelText<HTMLInputElement>("Strength", { selector: "input" });
  const type = (text: string) => {
    fireEvent.change(box, { target: { value: text } });
    fireEvent.keyDown(box, { key: "Enter" });
  };
  return { box, type, onMove, onCommit, slider: screen.getByRole("slider") };
}

it("keeps what is typed within its range, with a comma as well as a point", () => {
  const { type, onCommit, box } = field();
  type("99");
  expect(onCommit).toHaveBeenLastCalledWith(8);
  type("-3");
  expect(onCommit).toHaveBeenLastCalledWith(0);
  type("2,5");
  expect(onCommit).toHaveBeenLastCalledWith(2.5);
  expect(onCommit).toHaveBeenCalledTimes(3);
  type("as much as possible");
  expect(onCommit).toHaveBeenCalledTimes(3);
  expect(box.value).toBe("1.00"); // an invalid number is discarded
});

it("keeps what is typed when the field is left without Enter", () => {
  const { box, onCommit } = field();
  fireEvent.change(box, { target: { value: "3" } });
  expect(onCommit).not.toHaveBeenCalled();
  fireEvent.blur(box);
  expect(onCommit).toHaveBeenCalledExactlyOnceWith(3);
});

it("is moved by keys, in coarse steps with Shift, and not beyond its ends", () => {
  const { slider, onCommit } = field();
  fireEvent.keyDown(slider, { key: "ArrowLeft" });
  expect(onCommit).toHaveBeenLastCalledWith(0.95);
  fireEvent.keyDown(slider, { key: "ArrowRight", shiftKey: true });
  expect(onCommit).toHaveBeenLastCalledWith(1.5);
  for (let n = 0; n < 9; n++) fireEvent.keyDown(slider, { key: "ArrowLeft", shiftKey: true });
  expect(Math.min(...onCommit.mock.calls.map(([to]) => to))).toBeGreaterThanOrEqual(0);
  fireEvent.doubleClick(slider);
  expect(onCommit).toHaveBeenLastCalledWith(2);
});
