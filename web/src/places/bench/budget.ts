// Frame budget of the preview while dragging: time left by the chosen map's preview.

const LEAST = 60;
const MOST = 4000;
/**
 * After the pointer rested for this long in milliseconds, all maps are updated; on a busy machine
 * twice the time of the last picture, because its events arrive late as well.
 */
const PAUSE = 160;
/** Maximum milliseconds from an input event to the displayed result. */
const FELT = 120;

/**
 * While dragging, the other maps and the preview refresh less often than the chosen map. After each
 * refresh, the longest latency of the chosen map since then decides whether to refresh less often.
 * All times are milliseconds of the page's clock.
 */
export class Budget {
  private between: number;
  private last = 0;
  private longest = 0;
  private latest = 0;
  private moving = false;
  private readonly waiting: { number: number; at: number }[] = [];

  /** `slow`: software rendering, whose frames take time from computation. */
  constructor(slow: boolean) {
    this.between = slow ? MOST : LEAST;
  }

  /** The pointer starts to move: first only the selected map is updated. */
  began(at: number) {
    this.last = at;
    this.moving = false;
    this.waiting.length = 0;
  }

  /** The draft with that number was requested. */
  asked(number: number, at: number) {
    this.waiting.push({ number, at });
  }

  /** A picture of the draft with that number was displayed. */
  shown(number: number, at: number) {
    while (this.waiting[0] && this.waiting[0].number <= number) {
      this.latest = at - this.waiting[0].at;
      this.longest = Math.max(this.longest, this.latest);
      this.waiting.shift();
    }
  }

  /** The other maps were refreshed while dragging. */
  followed(at: number) {
    if (this.moving && this.longest > FELT) this.between = Math.min(MOST, this.between * 2);
    else if (this.moving && this.longest < FELT / 2)
      this.between = Math.max(LEAST, this.between / 2);
    this.last = at;
    this.longest = 0;
    this.moving = true;
  }

  /** Whether the other maps may be updated, for a newest draft of time `came`. */
  isDue(at: number, came: number): boolean {
    const rested = at - came >= Math.max(PAUSE, 2 * this.latest);
    return at - this.last >= this.between || rested;
  }
}
