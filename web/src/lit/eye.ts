// One eye for several lit windows: where one of them is turned to, the others follow.
import type { Vector3 } from "three";

type Follow = (position: Vector3) => void;

export class Eye {
  private readonly windows = new Set<Follow>();
  private last: Vector3 | null = null;

  /** Take part, from where the others are; `moved` tells them. */
  join(follow: Follow) {
    this.windows.add(follow);
    if (this.last) follow(this.last);
    return {
      moved: (position: Vector3) => {
        this.last = position.clone();
        for (const one of this.windows) if (one !== follow) one(position);
      },
      leave: () => this.windows.delete(follow),
    };
  }

  /** All windows begin anew where they began at first. */
  forget() {
    this.last = null;
  }
}
