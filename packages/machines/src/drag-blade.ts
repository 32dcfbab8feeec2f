/**
 * Where the tip of a trailing blade goes. The holder follows the commanded way, the tip trails it at distance d and
 * moves only along the blade: on a straight move of length s the angle to the move obeys
 * tan(angle/2) → tan(angle/2)·exp(-s/d) (the tractrix). With the tool up the blade keeps its angle.
 */
export class DragBlade {
  private heading = 0;
  private readonly offsetMm: number;

  constructor(offsetMm: number) {
    this.offsetMm = offsetMm;
  }

  tip(x: number, y: number): [number, number] {
    return [x - this.offsetMm * Math.cos(this.heading), y - this.offsetMm * Math.sin(this.heading)];
  }

  /** Tip positions along a straight move of the holder. */
  follow(fromX: number, fromY: number, toX: number, toY: number): [number, number][] {
    const length = Math.hypot(toX - fromX, toY - fromY);
    if (length === 0 || this.offsetMm === 0) return [this.tip(toX, toY)];
    const course = Math.atan2(toY - fromY, toX - fromX);
    const start = Math.tan(Math.atan2(Math.sin(this.heading - course), Math.cos(this.heading - course)) / 2);
    const steps = Math.max(1, Math.min(400, Math.ceil(length / 0.1)));
    const out: [number, number][] = [];
    for (let k = 1; k <= steps; k++) {
      const s = (length * k) / steps;
      this.heading = course + 2 * Math.atan(start * Math.exp(-s / this.offsetMm));
      out.push(this.tip(fromX + ((toX - fromX) * k) / steps, fromY + ((toY - fromY) * k) / steps));
    }
    return out;
  }
}
