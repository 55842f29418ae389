// From where the place is seen, as the command has it: what is at each point of the picture, and where a point of the
// place is drawn. All lenses draw on a plane, x to the right and y up in it: in meters from above and from the front, at
// a distance of 1 from an eye.

import type { Eye, Solids, Vec3, Wall } from "./book";
import type { Hung } from "./hung";

export const DOWN = [Math.sin((25 * Math.PI) / 180), Math.cos((25 * Math.PI) / 180)] as const;
/** What is so near before a surface lies on it, in meters. */
const ON = 0.01;
/** Nothing nearer to an eye than this is drawn, in meters. */
export const NEAR = 0.02;
const FAR = 1e5;

type Numbers = ArrayLike<number>;
export const dot = (a: Numbers, b: Numbers) => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;
export const plus = (a: Vec3, b: Vec3, times = 1): Vec3 => [a[0] + b[0] * times, a[1] + b[1] * times, a[2] + b[2] * times];
export const sized = (v: Vec3): Vec3 => {
  const length = Math.hypot(...v) || 1;
  return [v[0] / length, v[1] / length, v[2] / length];
};

/** A surface of the place: its point, the direction that it faces, what it throws back, and whether light counts alike from all sides. */
export interface Surface {
  at: Vec3;
  faces: Vec3;
  paint: Vec3;
  flat: boolean;
}

interface Ray {
  from: Vec3;
  way: Vec3;
}

/** Where an eye is and the directions of its picture. */
export interface Camera {
  at: Vec3;
  ahead: Vec3;
  right: Vec3;
  up: Vec3;
  /** The tangent of half the angle between the left and the right edge. */
  half: number;
}

export function cameraOf({ at, toward, field }: Pick<Eye, "at" | "toward" | "field">): Camera {
  const ahead = sized([toward[0] - at[0], toward[1] - at[1], toward[2] - at[2]]);
  const steep = Math.hypot(ahead[0], ahead[2]) < 1e-6;
  const right: Vec3 = steep ? [1, 0, 0] : sized([-ahead[2], 0, ahead[0]]);
  const up: Vec3 = [right[1] * ahead[2] - right[2] * ahead[1], right[2] * ahead[0] - right[0] * ahead[2], right[0] * ahead[1] - right[1] * ahead[0]];
  return { at, ahead, right, up, half: Math.tan((field * Math.PI) / 360) };
}

export type Lens = { kind: "above" } | { kind: "front"; back: number; front: number } | { kind: "eye"; eye: Camera };

const along = ({ from, way }: Ray, t: number): Vec3 => [from[0] + t * way[0], from[1] + t * way[1], from[2] + t * way[2]];
const plain = (at: Vec3, faces: Vec3): Surface => ({ at, faces, paint: [1, 1, 1], flat: false });

export function wayOf(eye: Camera, x: number, y: number): Vec3 {
  return [0, 1, 2].map((n) => eye.ahead[n]! + x * eye.right[n]! + y * eye.up[n]!) as Vec3;
}

function rayOf(lens: Lens, x: number, y: number): Ray {
  if (lens.kind === "above") return { from: [x, 0, -y], way: [0, -1, 0] };
  if (lens.kind === "front") return { from: [x, y / DOWN[1], 0], way: [0, -DOWN[0], -DOWN[1]] };
  return { from: lens.eye.at, way: wayOf(lens.eye, x, y) };
}

/** A point as an eye has it: to the right, up, and ahead, in meters. */
function seenBy(eye: Camera, p: Numbers): Vec3 {
  const way: Vec3 = [p[0]! - eye.at[0], p[1]! - eye.at[1], p[2]! - eye.at[2]];
  return [dot(way, eye.right), dot(way, eye.up), dot(way, eye.ahead)];
}

/** Where a point is drawn on the plane; null behind an eye. */
export function onPlane(lens: Lens, p: Numbers): [number, number] | null {
  if (lens.kind === "above") return [p[0]!, -p[2]!];
  if (lens.kind === "front") return [p[0]!, p[1]! * DOWN[1] - p[2]! * DOWN[0]];
  const [x, y, z] = seenBy(lens.eye, p);
  return z > NEAR ? [x / z, y / z] : null;
}

/** The part of the plane in which a ball can be seen: left, right, lower and upper edge. */
export function boundsOf(lens: Lens, p: Vec3, radius: number): [number, number, number, number] | null {
  if (lens.kind !== "eye") {
    const [x, y] = onPlane(lens, p)!;
    return [x - radius, x + radius, y - radius, y + radius];
  }
  const [x, y, z] = seenBy(lens.eye, p);
  if (z + radius <= NEAR) return null;
  if (z - radius <= NEAR) return [-Infinity, Infinity, -Infinity, Infinity];
  const least = (v: number) => Math.min((v - radius) / (z - radius), (v - radius) / (z + radius));
  const most = (v: number) => Math.max((v + radius) / (z - radius), (v + radius) / (z + radius));
  return [least(x), most(x), least(y), most(y)];
}

/** The place of the same surface at another point of the plane. */
export function slid(lens: Lens, at: Vec3, faces: Vec3, right: number, down: number, to: Vec3) {
  for (let k = 0; k < 3; ++k) to[k] = at[k]!;
  if (lens.kind === "eye") {
    const seen = onPlane(lens, at);
    if (!seen) return;
    const ray = rayOf(lens, seen[0] + right, seen[1] - down);
    const turned = dot(ray.way, faces);
    if (Math.abs(turned) < 1e-6) return;
    const t = dot([at[0] - ray.from[0], at[1] - ray.from[1], at[2] - ray.from[2]], faces) / turned;
    along(ray, t).forEach((v, n) => (to[n] = v));
    return;
  }
  to[0] += right;
  if (lens.kind === "above") to[2] += down;
  else if (faces[1] > 0.5) to[2] += down / DOWN[0];
  else {
    const along = (-right * faces[0]) / Math.max(faces[2], 0.05);
    to[1] += (along * DOWN[0] - down) / DOWN[1];
    to[2] += along;
  }
}

/** What is seen at a point of the plane. */
export function surfaceAt(lens: Lens, solids: Solids, hung: Hung[], x: number, y: number): Surface | null {
  const ray = rayOf(lens, x, y);
  let found: [number, Surface] | null;
  if (lens.kind === "above") found = [0, plain([x, 0, -y], [0, 1, 0])];
  else if (lens.kind === "front") found = fromFront(lens, solids, x, y);
  else found = fromEye(solids, ray);
  let nearest = found ? found[0] : FAR;
  let seen = found ? found[1] : null;
  for (const one of hung) {
    const turned = dot(ray.way, one.faces);
    if (Math.abs(turned) < 1e-7) continue;
    const { corner } = one;
    const t = dot([corner[0] - ray.from[0], corner[1] - ray.from[1], corner[2] - ray.from[2]], one.faces) / turned;
    if (t > nearest + ON || (lens.kind === "eye" && t < NEAR)) continue;
    const at = along(ray, t);
    const way: Vec3 = [at[0] - corner[0], at[1] - corner[1], at[2] - corner[2]];
    const [u, v] = [dot(way, one.across), dot(way, one.down)];
    if (!(u >= 0 && u <= 1 && v >= 0 && v <= 1)) continue;
    const paint = one.sample(u, v);
    if (!paint) continue;
    nearest = Math.min(t, nearest);
    const faces = turned > 0 ? (one.faces.map((v) => -v) as Vec3) : one.faces;
    seen = { at, faces, paint, flat: !one.lies };
  }
  return seen;
}

function fromFront({ back, front }: { back: number; front: number }, solids: Solids, x: number, up: number): [number, Surface] | null {
  let nearest = -Infinity;
  let seen: Surface | null = null;
  const ground = -up / DOWN[0];
  if (ground >= back && ground <= front) {
    nearest = ground;
    seen = plain([x, 0, ground], [0, 1, 0]);
  }
  const height = (z: number) => (up + z * DOWN[0]) / DOWN[1];
  for (const wall of solids.walls) {
    const run = wall.to[0] - wall.from[0];
    const rise = wall.to[2] - wall.from[2];
    if (Math.abs(run) < 1e-3) continue;
    const u = (x - wall.from[0]) / run;
    const z = wall.from[2] + u * rise;
    const y = height(z);
    const foot = wall.from[1] + u * (wall.to[1] - wall.from[1]);
    if (u < 0 || u > 1 || y < foot || y > wall.top || z <= nearest) continue;
    const length = Math.hypot(run, rise) * Math.sign(run);
    nearest = z;
    seen = plain([x, y, z + 0.01], [-rise / length, 0, run / length]);
  }
  for (const post of solids.posts) {
    const aside = (x - post.at[0]) / post.radius;
    if (Math.abs(aside) >= 1) continue;
    const out = Math.sqrt(1 - aside * aside);
    const z = post.at[2] + out * post.radius;
    const y = height(z);
    if (z <= nearest || y < post.at[1] || y > post.top) continue;
    nearest = z;
    seen = plain([x, y, z + 0.01], [aside, 0, out]);
  }
  return seen && [-nearest / DOWN[1], seen];
}

/** A point a little before a surface, so that it does not lie in its own shadow. */
const before = (at: Vec3, faces: Vec3): Vec3 => [at[0] + 0.01 * faces[0], at[1] + 0.01 * faces[1], at[2] + 0.01 * faces[2]];

function fromEye(solids: Solids, ray: Ray): [number, Surface] | null {
  const { from, way } = ray;
  let nearest = FAR;
  let seen: Surface | null = null;
  if (from[1] > 0 && way[1] < 0 && -from[1] / way[1] < nearest) {
    nearest = -from[1] / way[1];
    const [x, , z] = along(ray, nearest);
    seen = plain([x, 0, z], [0, 1, 0]);
  }
  for (const wall of solids.walls) {
    const [ax, az] = [wall.from[0] - from[0], wall.from[2] - from[2]];
    const [bx, bz] = [wall.to[0] - wall.from[0], wall.to[2] - wall.from[2]];
    const across = way[0] * bz - way[2] * bx;
    if (Math.abs(across) < 1e-9) continue;
    const t = (ax * bz - az * bx) / across;
    const u = (ax * way[2] - az * way[0]) / across;
    if (!(t > NEAR && t < nearest && u >= 0 && u <= 1)) continue;
    const y = from[1] + t * way[1];
    if (y < wall.from[1] + u * (wall.to[1] - wall.from[1]) || y > wall.top) continue;
    const length = Math.hypot(bx, bz);
    let faces: Vec3 = [-bz / length, 0, bx / length];
    if (dot(faces, way) > 0) faces = [-faces[0], 0, -faces[2]];
    nearest = t;
    seen = plain(before(along(ray, t), faces), faces);
  }
  for (const post of solids.posts) {
    const [cx, cz] = [from[0] - post.at[0], from[2] - post.at[2]];
    const apart = cx * cx + cz * cz - post.radius * post.radius;
    // An eye in a post sees out of it.
    if (apart <= 0 && from[1] >= post.at[1] && from[1] <= post.top) continue;
    const level = way[0] * way[0] + way[2] * way[2];
    const half = cx * way[0] + cz * way[2];
    const root = half * half - level * apart;
    if (level > 1e-12 && root > 0) {
      const t = (-half - Math.sqrt(root)) / level;
      const at = along(ray, t);
      if (t > NEAR && t < nearest && at[1] >= post.at[1] && at[1] <= post.top) {
        const faces: Vec3 = [(at[0] - post.at[0]) / post.radius, 0, (at[2] - post.at[2]) / post.radius];
        nearest = t;
        seen = plain(before(at, faces), faces);
      }
    }
    if (from[1] > post.top && way[1] < 0) {
      const t = (post.top - from[1]) / way[1];
      const at = along(ray, t);
      if (t > NEAR && t < nearest && Math.hypot(at[0] - post.at[0], at[2] - post.at[2]) <= post.radius) {
        nearest = t;
        seen = plain(before(at, [0, 1, 0]), [0, 1, 0]);
      }
    }
  }
  return seen && [nearest, seen];
}

/** How far, level, a wall is from a point. */
export function wallDistance(wall: Wall, p: Vec3): number {
  const bx = wall.to[0] - wall.from[0];
  const bz = wall.to[2] - wall.from[2];
  const px = p[0] - wall.from[0];
  const pz = p[2] - wall.from[2];
  const length = bx * bx + bz * bz;
  const along = length > 0 ? Math.min(1, Math.max(0, (px * bx + pz * bz) / length)) : 0;
  return Math.hypot(px - along * bx, pz - along * bz);
}
