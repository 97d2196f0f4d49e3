// How long an attempt has lasted, in seconds, by this tab's own clock.

const LONGEST_PAUSE_S = 600; // a tab left open overnight does not stretch the attempt to a day

export class Clock {
  private at_s = 0;
  private since: number;

  constructor(private readonly nowMs: () => number = () => performance.now()) {
    this.since = nowMs();
  }

  /** It is this late now. */
  set(at_s: number): void {
    this.at_s = at_s;
    this.since = this.nowMs();
  }

  now(): number {
    const passed = (this.nowMs() - this.since) / 1000;
    return this.at_s + Math.min(passed, LONGEST_PAUSE_S);
  }
}
