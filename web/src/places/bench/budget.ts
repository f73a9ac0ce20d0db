// Frame budget of the preview while dragging: time left by the chosen map's preview.

const LEAST = 60;
const MOST = 4000;
/**
 * A hand that rests so long, in milliseconds, is given all; on a busy machine twice as long as its
 * last picture took, since its events come late as well.
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

  /** `slow`: the processor draws, so that a frame takes the time of what computes. */
  constructor(slow: boolean) {
    this.between = slow ? MOST : LEAST;
  }

  /** A hand begins to move: its first moments belong to the chosen map. */
  began(at: number) {
    this.last = at;
    this.moving = false;
    this.waiting.length = 0;
  }

  /** The draft with that number was requested. */
  asked(number: number, at: number) {
    this.waiting.push({ number, at });
  }

  /** A picture shows the draft of that number. */
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

  /** May the others follow now, when the newest draft came at `came`? */
  isDue(at: number, came: number): boolean {
    const rested = at - came >= Math.max(PAUSE, 2 * this.latest);
    return at - this.last >= this.between || rested;
  }
}
