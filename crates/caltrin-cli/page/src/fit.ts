// A drawn stroke as few stops: the line through them stays within a tolerance of the stroke.

export interface Point {
  x: number;
  y: number;
}

/** The indices of the points that are kept, the first and the last among them. */
export function kept(points: Point[], tolerance: number): number[] {
  if (points.length <= 2) return points.map((_, n) => n);
  const stays = new Set([0, points.length - 1]);
  const open: [number, number][] = [[0, points.length - 1]];
  for (let part = open.pop(); part; part = open.pop()) {
    const [from, to] = part;
    const [a, b] = [points[from]!, points[to]!];
    let [worst, at] = [0, -1];
    for (let n = from + 1; n < to; ++n) {
      const p = points[n]!;
      const share = b.x > a.x ? (p.x - a.x) / (b.x - a.x) : 0;
      const away = Math.abs(p.y - (a.y + share * (b.y - a.y)));
      if (away > worst) [worst, at] = [away, n];
    }
    if (worst > tolerance && at > 0) {
      stays.add(at);
      open.push([from, at], [at, to]);
    }
  }
  return [...stays].sort((a, b) => a - b);
}

/** A stroke whose points only go forward: those that go back take the place of what they go over. */
export function forward(points: Point[]): Point[] {
  const found: Point[] = [];
  for (const point of points) {
    while (found.length && found[found.length - 1]!.x >= point.x) found.pop();
    found.push(point);
  }
  return found;
}
