import { Vector3 } from "three";
import { expect, it, vi } from "vitest";
import { Eye } from "./shared-camera";

it("tells the others where one of them is turned to, and newcomers where they are", () => {
  const eye = new Eye();
  const [first, second, late] = [vi.fn(), vi.fn(), vi.fn()];
  const one = eye.join(first);
  const two = eye.join(second);
  const place = new Vector3(1, 2, 3);
  one.moved(place);
  expect(second).toHaveBeenCalledWith(new Vector3(1, 2, 3));
  expect(first).not.toHaveBeenCalled();
  place.set(9, 9, 9); // the reported value isn't changed
  eye.join(late);
  expect(late).toHaveBeenCalledWith(new Vector3(1, 2, 3));
  two.leave();
  one.moved(place);
  expect(second).toHaveBeenCalledTimes(1);
  expect(late).toHaveBeenCalledTimes(2);
});

it("begins anew once it has forgotten", () => {
  const eye = new Eye();
  const late = vi.fn();
  eye.join(vi.fn()).moved(new Vector3(1, 2, 3));
  eye.forget();
  eye.join(late);
  expect(late).not.toHaveBeenCalled();
});
