// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeAll, expect, it, vi } from "vitest";
import { DialField } from "./dial-field";

beforeAll(() => {
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  );
});
afterEach(cleanup);

function field() {
  const onMove = vi.fn();
  const onSettle = vi.fn();
  render(
    <DialField
      label="Strength"
      hint="how strong"
      value={1}
      low={0}
      high={8}
      initial={2}
      onMove={onMove}
      onSettle={onSettle}
    />,
  );
  const box = screen.getByLabelText<HTMLInputElement>("Strength", { selector: "input" });
  const type = (text: string) => {
    fireEvent.change(box, { target: { value: text } });
    fireEvent.keyDown(box, { key: "Enter" });
  };
  return { box, type, onMove, onSettle, slider: screen.getByRole("slider") };
}

it("keeps what is typed within its range, with a comma as well as a point", () => {
  const { type, onSettle, box } = field();
  type("99");
  expect(onSettle).toHaveBeenLastCalledWith(8);
  type("-3");
  expect(onSettle).toHaveBeenLastCalledWith(0);
  type("2,5");
  expect(onSettle).toHaveBeenLastCalledWith(2.5);
  expect(onSettle).toHaveBeenCalledTimes(3);
  type("as much as possible");
  expect(onSettle).toHaveBeenCalledTimes(3);
  expect(box.value).toBe("1.00"); // what is no number is forgotten
});

it("keeps what is typed when the field is left without Enter", () => {
  const { box, onSettle } = field();
  fireEvent.change(box, { target: { value: "3" } });
  expect(onSettle).not.toHaveBeenCalled();
  fireEvent.blur(box);
  expect(onSettle).toHaveBeenCalledExactlyOnceWith(3);
});

it("is moved by keys, in coarse steps with Shift, and not beyond its ends", () => {
  const { slider, onSettle } = field();
  fireEvent.keyDown(slider, { key: "ArrowLeft" });
  expect(onSettle).toHaveBeenLastCalledWith(0.95);
  fireEvent.keyDown(slider, { key: "ArrowRight", shiftKey: true });
  expect(onSettle).toHaveBeenLastCalledWith(1.5);
  for (let n = 0; n < 9; n++) fireEvent.keyDown(slider, { key: "ArrowLeft", shiftKey: true });
  expect(Math.min(...onSettle.mock.calls.map(([to]) => to))).toBeGreaterThanOrEqual(0);
  fireEvent.doubleClick(slider);
  expect(onSettle).toHaveBeenLastCalledWith(2);
});
