// Shared camera of several lit views: rotating one rotates the others.
import type { Vector3 } from "three";

type Follow = (position: Vector3) => void;

export class Eye {
  private readonly windows = new Set<Follow>();
  private last: Vector3 | null = null;

  /** Join at the current camera position; `moved` is called on changes. */
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

  /** Reset the camera of all views. */
  forget() {
    this.last = null;
  }
}
