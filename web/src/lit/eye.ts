// One eye for several lit windows: where one of them is turned to, the others follow.
import type { Vector3 } from "three";

type Follow = (position: Vector3) => void;

export class Eye {
  private readonly windows = new Set<Follow>();

  /** Take part; `moved` tells the others. */
  join(follow: Follow) {
    this.windows.add(follow);
    return {
      moved: (position: Vector3) => {
        for (const one of this.windows) if (one !== follow) one(position);
      },
      leave: () => this.windows.delete(follow),
    };
  }
}
