// The place through an eye, rendered with WebGL 2: the lighting of lens.ts and place.ts for every pixel. The contribution of
// each lamp per candela is cached until the lamp moves, four lamps per layer, so most frames only add the layers.

import type { Solids, Vec3 } from "./book";
import type { Hung } from "./hung";
import { type Camera, type Lens, boundsOf, wallDistance } from "./lens";
import { DEPTH, type Drawn, GROUND, type Standing, type Surrounding, UPRIGHT, stands } from "./lamp";

/** The number of the first picture among the things; their edges are as they are. */
const PICTURES = 1024;
/** The most walls and posts around a lamp that are looked up by a list. */
const NEARBY = 64;

const HEAD = `#version 300 es
precision highp float;
precision highp int;
precision highp sampler2D;
precision highp sampler2DArray;
uniform vec2 corner;   // left and lower edge of the plane
uniform float cell;
uniform vec3 eye, ahead, right, up;
vec2 plane() { return corner + gl_FragCoord.xy * cell; }
`;

/** Walls and posts, two texels each. */
const SOLIDS = `
uniform sampler2D solids;
uniform int walls, posts;
vec4 solid(int n) { return texelFetch(solids, ivec2(n % 1024, n / 1024), 0); }
const float TOUCHING = 4e-3;
bool wallBetween(vec4 a, vec4 b, vec3 from, vec3 way) {
  vec2 s = a.xz - from.xz, e = b.xz - a.xz;
  float across = way.x * e.y - way.z * e.x;
  if (abs(across) < 1e-9) return false;
  float t = (s.x * e.y - s.y * e.x) / across;
  float u = (s.x * way.z - s.y * way.x) / across;
  if (!(t * length(way.xz) > TOUCHING && t < 1.0 && u >= 0.0 && u <= 1.0)) return false;
  float y = from.y + t * way.y;
  return y >= a.y + u * (b.y - a.y) && y <= a.w;
}
bool postBetween(vec4 p, float radius, vec3 from, vec3 way) {
  vec2 c = p.xz - from.xz;
  float level = dot(way.xz, way.xz);
  if (level < 1e-12) return false;
  float nearest = dot(c, way.xz) / level;
  vec2 d = c - nearest * way.xz;
  float apart = radius * radius - dot(d, d);
  if (apart <= 0.0) return false;
  float h = sqrt(apart / level);
  float enters = max(TOUCHING / sqrt(level), nearest - h), leaves = min(1.0, nearest + h);
  if (enters >= leaves) return false;
  float a = from.y + enters * way.y, b = from.y + leaves * way.y;
  return min(a, b) <= p.w && max(a, b) >= p.y;
}
`;

const VERTEX = `#version 300 es
void main() { gl_Position = vec4(vec2(gl_VertexID % 2, gl_VertexID / 2) * 4.0 - 1.0, 0.0, 1.0); }`;

/** How far a surface is, as a depth of the buffer. */
const FAR = `
layout(location = 0) out vec4 at;
layout(location = 1) out vec4 faces;
layout(location = 2) out vec4 paint;
float deep(float t) { return log2(1.0 + t) / 17.0; }
`;

/** What stands on a ray of the eye: how far, where, how it faces; and what it is: 0 nothing, 1 the ground, then walls and posts. */
const HIT = `
const float CLOSE = 0.02;
int hit(vec3 way, out float nearest, out vec3 at, out vec3 faces) {
  nearest = 1e5;
  at = vec3(0.0);
  faces = vec3(0.0);
  int thing = 0;
  if (eye.y > 0.0 && way.y < 0.0 && -eye.y / way.y < nearest) {
    nearest = -eye.y / way.y;
    at = vec3(eye.x + nearest * way.x, 0.0, eye.z + nearest * way.z);
    faces = vec3(0.0, 1.0, 0.0);
    thing = 1;
  }
  for (int n = 0; n < walls; ++n) {
    vec4 a = solid(2 * n), b = solid(2 * n + 1);
    vec2 s = a.xz - eye.xz, e = b.xz - a.xz;
    float across = way.x * e.y - way.z * e.x;
    if (abs(across) < 1e-9) continue;
    float t = (s.x * e.y - s.y * e.x) / across;
    float u = (s.x * way.z - s.y * way.x) / across;
    if (!(t > CLOSE && t < nearest && u >= 0.0 && u <= 1.0)) continue;
    float y = eye.y + t * way.y;
    if (y < a.y + u * (b.y - a.y) || y > a.w) continue;
    vec3 f = vec3(-e.y, 0.0, e.x) / length(e);
    faces = dot(f, way) > 0.0 ? -f : f;
    at = eye + t * way + 0.01 * faces;
    nearest = t;
    thing = 2 + n;
  }
  for (int n = 0; n < posts; ++n) {
    vec4 p = solid(2 * (walls + n));
    float radius = solid(2 * (walls + n) + 1).x;
    vec2 c = eye.xz - p.xz;
    float apart = dot(c, c) - radius * radius;
    if (apart <= 0.0 && eye.y >= p.y && eye.y <= p.w) continue;
    float level = dot(way.xz, way.xz), half_ = dot(c, way.xz), root = half_ * half_ - level * apart;
    if (level > 1e-12 && root > 0.0) {
      float t = (-half_ - sqrt(root)) / level;
      vec3 q = eye + t * way;
      if (t > CLOSE && t < nearest && q.y >= p.y && q.y <= p.w) {
        faces = vec3((q.xz - p.xz) / radius, 0.0).xzy;
        at = q + 0.01 * faces;
        nearest = t;
        thing = 2 + walls + n;
      }
    }
    if (eye.y > p.w && way.y < 0.0) {
      float t = (p.w - eye.y) / way.y;
      vec3 q = eye + t * way;
      if (t > CLOSE && t < nearest && length(q.xz - p.xz) <= radius) {
        faces = vec3(0.0, 1.0, 0.0);
        at = q + 0.01 * faces;
        nearest = t;
        thing = 2 + walls + n;
      }
    }
  }
  return thing;
}
`;

/** Of each pixel the place, with 1 or, where light counts from all sides, 2; the direction that it faces, with what it is; and its color. */
const SURFACES = `${HEAD}${FAR}${SOLIDS}${HIT}
void main() {
  vec2 xy = plane();
  float nearest;
  vec3 p, f;
  int thing = hit(ahead + xy.x * right + xy.y * up, nearest, p, f);
  at = vec4(p, thing > 0 ? 1.0 : 0.0);
  faces = vec4(f, float(thing));
  paint = vec4(thing > 0 ? 1.0 : 0.0);
  gl_FragDepth = deep(nearest);
}`;

/** A picture, over what is behind it. */
const PICTURE = `${HEAD}${FAR}
uniform sampler2D picture;
uniform vec3 start, across, down, face;
uniform float texel;
uniform bool flat_;
uniform float thing;
void main() {
  vec2 xy = plane();
  vec3 way = ahead + xy.x * right + xy.y * up;
  float turned = dot(way, face);
  float t = dot(start - eye, face) / turned;
  if (abs(turned) < 1e-7 || !(t >= 0.02)) discard;
  vec3 p = eye + t * way;
  vec2 uv = vec2(dot(p - start, across), dot(p - start, down));
  if (!(uv.x >= 0.0 && uv.x <= 1.0 && uv.y >= 0.0 && uv.y <= 1.0)) discard;
  vec4 color = textureLod(picture, uv, max(0.0, log2(max(1.0, cell * t / texel))));
  if (color.a < 0.5) discard;
  at = vec4(p, flat_ ? 2.0 : 1.0);
  faces = vec4(turned > 0.0 ? -face : face, thing);
  paint = vec4(color.rgb, 1.0);
  // What lies on the ground or hangs on a wall is before it.
  gl_FragDepth = deep(max(0.0, t - 0.01));
}`;

/** The contribution of one lamp or sun to each pixel, per candela or lux. */
const SHARE = `${HEAD}${SOLIDS}
uniform sampler2D surface, facing;
uniform vec3 lamp, aim;
uniform vec2 cone;
uniform float inner, outer, falloff;
uniform int kind;      // 0: to all sides, 1: a half space, 2: a cone, 3: a sun
uniform int blockers;  // how many walls and posts may stand before it
uniform int near[${NEARBY}];
uniform bool smooth_;
out vec4 share;
bool isOpen(vec3 from) {
  vec3 way = kind == 3 ? lamp * 1e4 : lamp - from;
  for (int k = 0; k < blockers; ++k) {
    int n = blockers > ${NEARBY} ? k : near[k];
    vec4 a = solid(2 * n), b = solid(2 * n + 1);
    if (kind != 3 && n >= walls && distance(a.xz, lamp.xz) <= b.x) continue;
    if (n < walls ? wallBetween(a, b, from, way) : postBetween(a, b.x, from, way)) return false;
  }
  return true;
}
vec3 slid(vec3 p, vec3 f, vec2 by) {
  vec3 seen = p - eye;
  float z = dot(seen, ahead);
  vec2 xy = vec2(dot(seen, right), dot(seen, up)) / z + by * cell;
  vec3 way = ahead + xy.x * right + xy.y * up;
  float turned = dot(way, f);
  return abs(turned) < 1e-6 ? p : eye + way * (dot(seen, f) / turned);
}
void main() {
  ivec2 here = ivec2(gl_FragCoord.xy);
  vec4 p = texelFetch(surface, here, 0);
  share = vec4(0.0);
  if (p.w == 0.0) return;
  vec3 f = texelFetch(facing, here, 0).xyz;
  bool level = p.w == 2.0;
  float value;
  if (kind == 3) value = level ? 1.0 : max(0.0, dot(f, lamp));
  else {
    vec3 way = lamp - p.xyz;
    float squared = dot(way, way);
    if (squared >= outer * outer || squared < 1e-12) return;
    float away = sqrt(squared);
    float faced = level ? 1.0 : dot(f, way) / away;
    if (faced <= 0.0) return;
    float far = squared / (outer * outer);
    float near = max(away, inner);
    value = faced * max(0.0, 1.0 - far * far) / (falloff == 2.0 ? near * near : pow(near, falloff));
    if (kind > 0) {
      float along = -dot(aim, way) / away;
      float inside = kind == 2 ? clamp(along * cone.x + cone.y, 0.0, 1.0) : max(0.0, along);
      value *= kind == 2 ? inside * inside : inside;
    }
  }
  if (value <= 0.0) return;
  if (blockers > 0) {
    int open = isOpen(p.xyz) ? 1 : 0;
    if (!smooth_) {
      share = vec4(value * float(open));
      return;
    }
    int all = open;
    for (int n = 0; n < 4; ++n) all += isOpen(slid(p.xyz, f, vec2(n % 2, n / 2) * 1.5 - 0.75)) ? 1 : 0;
    if (all == 0) return;
    if (all < 5) {
      // On the edge of a shadow it is looked at in sixteen places.
      int free = 0;
      for (int n = 0; n < 16; ++n) free += isOpen(slid(p.xyz, f, (vec2(n % 4, n / 4) + 0.5) / 4.0 - 0.5)) ? 1 : 0;
      value *= float(free) / 16.0;
    }
  }
  share = vec4(value);
}`;

/** Adds all contributions, applies fog and exposure, and encodes as sRGB. */
const SHOWN = `${HEAD}${SOLIDS}${HIT}
uniform sampler2D surface, facing, paints, strengths;
uniform sampler2DArray shares;
uniform int layers;
uniform vec3 ambient, haze, sky;
uniform float density, exposure;
uniform bool smooth_;
out vec4 color;
/** What is drawn of the light of a pixel, before it is encoded. */
vec3 shownAt(ivec2 here) {
  vec4 p = texelFetch(surface, here, 0);
  vec3 light = sky;
  float away;
  if (p.w > 0.0) {
    light = ambient * (p.w == 2.0 ? 1.0 : ${UPRIGHT} + (1.0 - ${UPRIGHT}) * max(0.0, texelFetch(facing, here, 0).y));
    for (int n = 0; n < layers; ++n) {
      vec4 share = texelFetch(shares, ivec3(here, n), 0);
      if (share == vec4(0.0)) continue;
      for (int k = 0; k < 4; ++k) light += share[k] * texelFetch(strengths, ivec2((4 * n + k) % 1024, (4 * n + k) / 1024), 0).rgb;
    }
    light *= texelFetch(paints, here, 0).rgb;
    away = distance(p.xyz, eye);
  } else {
    vec2 xy = corner + (vec2(here) + 0.5) * cell;
    vec3 way = ahead + xy.x * right + xy.y * up;
    away = ${DEPTH.toFixed(1)} / max(1e-3, way.y / length(way));
  }
  float through = exp(-density * away);
  return 1.0 - exp(-(light * through + haze * (1.0 - through)) * exposure);
}
int thingAt(ivec2 here) { return int(texelFetch(facing, here, 0).w + 0.5); }
void main() {
  ivec2 here = ivec2(gl_FragCoord.xy);
  vec3 v = shownAt(here);
  int own = thingAt(here);
  bool edge = false;
  ivec2 around[9];
  int things[9];
  if (smooth_) {
    ivec2 most = textureSize(surface, 0) - 1;
    for (int n = 0; n < 9; ++n) {
      around[n] = clamp(here + ivec2(n % 3, n / 3) - 1, ivec2(0), most);
      things[n] = thingAt(around[n]);
      if (things[n] != own) edge = true;
    }
    for (int n = 0; n < 9; ++n) if (things[n] >= ${PICTURES}) edge = false;
  }
  if (edge) {
    // Where one thing ends and another begins: the mean of what is drawn of both.
    int counts[9] = int[9](0, 0, 0, 0, 0, 0, 0, 0, 0);
    for (int k = 0; k < 16; ++k) {
      vec2 xy = corner + (vec2(here) + (vec2(k % 4, k / 4) + 0.5) / 4.0) * cell;
      float t;
      vec3 p, f;
      int thing = hit(ahead + xy.x * right + xy.y * up, t, p, f);
      int like = 4;
      if (thing != own) for (int n = 0; n < 9; ++n) if (things[n] == thing) { like = n; break; }
      counts[like] += 1;
    }
    vec3 sum = vec3(0.0);
    for (int n = 0; n < 9; ++n) if (counts[n] > 0) sum += float(counts[n]) / 16.0 * (n == 4 ? v : shownAt(around[n]));
    v = sum;
  }
  vec3 ground = vec3(${GROUND.join(", ")});
  v = ground + (1.0 - ground) * v;
  color = vec4(mix(1.055 * pow(v, vec3(1.0 / 2.4)) - 0.055, 12.92 * v, lessThanEqual(v, vec3(0.0031308))), 1.0);
}`;

/** The memory limit of the cached layers, in bytes. */
const MEMORY = 160 << 20;
/** The maximum number of moved lamps that are updated per frame, unless the picture is full. */
const ANEW = 2;
/** The height of a texture of 1,024 texels a row, for so many. */
const rows = (texels: number) => Math.max(1, Math.ceil(texels / 1024));

type Source = Pick<Standing, "at" | "aim" | "cone" | "inner" | "outer" | "falloff" | "shadows"> & { sun: boolean };

const alike = (a: Source, b: Source) => JSON.stringify(a) === JSON.stringify(b);

export class Painter {
  readonly canvas = document.createElement("canvas");
  private readonly surfaces: WebGLProgram;
  private readonly picture: WebGLProgram;
  private readonly shareOf: WebGLProgram;
  private readonly shown: WebGLProgram;
  private readonly frame: WebGLFramebuffer;
  private readonly layer: WebGLFramebuffer;
  private readonly solids: WebGLTexture;
  private readonly strengths: WebGLTexture;
  private readonly pictures = new Map<string, WebGLTexture>();
  private planes: WebGLTexture[] = [];
  private depth: WebGLRenderbuffer | null = null;
  private shares: WebGLTexture | null = null;
  private layers = 0;
  private slots = new Map<string, { slot: number; source: Source | null }>();
  private lens: Lens = { kind: "above" };
  private view = { left: 0, foot: 0, cell: 1 };
  private standing: Solids = { walls: [], posts: [] };
  private counts = { walls: 0, posts: 0 };
  private readonly places = new Map<WebGLProgram, Map<string, WebGLUniformLocation | null>>();
  /** Whether rendering is in software. */
  readonly slow: boolean;
  /** Whether edges are smoothed and all moved lamps are updated in the same frame. */
  full = true;

  /** Returns null if the browser has no WebGL 2 with float textures. */
  static make(): Painter | null {
    try {
      return new Painter();
    } catch {
      return null;
    }
  }

  private readonly gl: WebGL2RenderingContext;
  /** Whether the WebGL context was lost. */
  lost = false;

  private constructor() {
    const gl = this.canvas.getContext("webgl2", { alpha: false, antialias: false, depth: false, preserveDrawingBuffer: true });
    if (!gl || !gl.getExtension("EXT_color_buffer_float")) throw new Error("no floating numbers");
    this.gl = gl;
    this.canvas.addEventListener("webglcontextlost", () => (this.lost = true));
    const about = gl.getExtension("WEBGL_debug_renderer_info");
    const name = about ? String(gl.getParameter(about.UNMASKED_RENDERER_WEBGL)) : "";
    this.slow = /swiftshader|llvmpipe|software|basic render/i.test(name);
    [this.surfaces, this.picture, this.shareOf, this.shown] = [SURFACES, PICTURE, SHARE, SHOWN].map((text) => this.program(text)) as [WebGLProgram, WebGLProgram, WebGLProgram, WebGLProgram];
    this.frame = gl.createFramebuffer()!;
    this.layer = gl.createFramebuffer()!;
    this.solids = this.plain();
    this.strengths = this.plain();
    gl.bindVertexArray(gl.createVertexArray());
  }

  private program(text: string): WebGLProgram {
    const { gl } = this;
    const program = gl.createProgram()!;
    for (const [kind, source] of [[gl.VERTEX_SHADER, VERTEX], [gl.FRAGMENT_SHADER, text]] as const) {
      const shader = gl.createShader(kind)!;
      gl.shaderSource(shader, source);
      gl.compileShader(shader);
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) console.error(gl.getShaderInfoLog(shader));
      gl.attachShader(program, shader);
    }
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error("the shaders cannot be used");
    return program;
  }

  /** A texture that is read texel by texel. */
  private plain(): WebGLTexture {
    const { gl } = this;
    const texture = gl.createTexture()!;
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    return texture;
  }

  /** Where a uniform of a program is. */
  private place(program: WebGLProgram, name: string): WebGLUniformLocation | null {
    let known = this.places.get(program);
    if (!known) this.places.set(program, (known = new Map()));
    if (!known.has(name)) known.set(name, this.gl.getUniformLocation(program, name));
    return known.get(name)!;
  }

  private use(program: WebGLProgram, numbers: Record<string, number | readonly number[]>, whole: Record<string, number>, textures: Record<string, WebGLTexture>) {
    const { gl } = this;
    gl.useProgram(program);
    const eye = this.lens.kind === "eye" ? this.lens.eye : null;
    const all: Record<string, number | readonly number[]> = { corner: [this.view.left, this.view.foot], cell: this.view.cell, ...numbers };
    if (eye) Object.assign(all, { eye: eye.at, ahead: eye.ahead, right: eye.right, up: eye.up });
    for (const [name, value] of Object.entries(all)) {
      const at = this.place(program, name);
      if (typeof value === "number") gl.uniform1f(at, value);
      else if (value.length === 2) gl.uniform2f(at, value[0]!, value[1]!);
      else gl.uniform3f(at, value[0]!, value[1]!, value[2]!);
    }
    for (const [name, value] of Object.entries(whole)) gl.uniform1i(this.place(program, name), value);
    Object.entries(textures).forEach(([name, texture], n) => {
      gl.activeTexture(gl.TEXTURE0 + n);
      gl.bindTexture(texture === this.shares ? gl.TEXTURE_2D_ARRAY : gl.TEXTURE_2D, texture);
      gl.uniform1i(this.place(program, name), n);
    });
  }

  private fill() {
    this.gl.drawArrays(this.gl.TRIANGLES, 0, 3);
  }

  /** Takes what is seen, for a picture of so many pixels. */
  look(eye: Camera, { left, top, wide, tall }: { left: number; top: number; wide: number; tall: number }, size: [number, number], solids: Solids, hung: Hung[]) {
    const { gl, canvas } = this;
    [canvas.width, canvas.height] = size;
    this.lens = { kind: "eye", eye };
    this.view = { left, foot: top - tall, cell: wide / size[0] };
    this.standing = solids;
    this.counts = { walls: solids.walls.length, posts: solids.posts.length };
    const texels = [
      ...solids.walls.flatMap(({ from, to, top }) => [...from, top, ...to, 0]),
      ...solids.posts.flatMap(({ at, radius, top }) => [...at, top, radius, 0, 0, 0]),
    ];
    this.numbers(this.solids, texels);
    for (const plane of this.planes) gl.deleteTexture(plane);
    this.planes = [gl.RGBA32F, gl.RGBA16F, gl.RGBA16F].map((format) => {
      const plane = this.plain();
      gl.texStorage2D(gl.TEXTURE_2D, 1, format, ...size);
      return plane;
    });
    if (this.depth) gl.deleteRenderbuffer(this.depth);
    this.depth = gl.createRenderbuffer()!;
    gl.bindRenderbuffer(gl.RENDERBUFFER, this.depth);
    gl.renderbufferStorage(gl.RENDERBUFFER, gl.DEPTH_COMPONENT32F, ...size);
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.frame);
    this.planes.forEach((plane, n) => gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0 + n, gl.TEXTURE_2D, plane, 0));
    gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.DEPTH_ATTACHMENT, gl.RENDERBUFFER, this.depth);
    gl.drawBuffers([gl.COLOR_ATTACHMENT0, gl.COLOR_ATTACHMENT1, gl.COLOR_ATTACHMENT2]);
    gl.viewport(0, 0, ...size);
    gl.disable(gl.SCISSOR_TEST);
    gl.colorMask(true, true, true, true);
    gl.enable(gl.DEPTH_TEST);
    gl.depthFunc(gl.ALWAYS);
    this.use(this.surfaces, {}, this.counts, { solids: this.solids });
    this.fill();
    gl.depthFunc(gl.LEQUAL);
    for (const [n, one] of hung.entries()) {
      const texel = 1 / Math.hypot(...one.across) / one.image.width;
      this.use(this.picture, { start: one.corner, across: one.across, down: one.down, face: one.faces, texel, thing: PICTURES + n }, { flat_: one.lies ? 0 : 1 }, { picture: this.pictureOf(one) });
      this.fill();
    }
    gl.disable(gl.DEPTH_TEST);
    gl.deleteTexture(this.shares);
    this.shares = null;
    this.layers = 0;
    this.slots.clear();
  }

  private numbers(texture: WebGLTexture, texels: number[]) {
    const { gl } = this;
    const data = new Float32Array(1024 * rows(texels.length / 4) * 4);
    data.set(texels);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA32F, 1024, rows(texels.length / 4), 0, gl.RGBA, gl.FLOAT, data);
  }

  private pictureOf(one: Hung): WebGLTexture {
    const known = this.pictures.get(one.key);
    if (known) return known;
    const { gl } = this;
    const texture = gl.createTexture()!;
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.SRGB8_ALPHA8, gl.RGBA, gl.UNSIGNED_BYTE, one.image);
    gl.generateMipmap(gl.TEXTURE_2D);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR_MIPMAP_LINEAR);
    for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, side, gl.CLAMP_TO_EDGE);
    this.pictures.set(one.key, texture);
    return texture;
  }

  /** The most pixels for so many lamps. */
  static pixels(lamps: number): number {
    return MEMORY / (8 * Math.max(1, Math.ceil(lamps / 4)));
  }

  /** Makes room for so many lamps. */
  private room(lamps: number) {
    const wanted = Math.ceil(lamps / 4);
    if (wanted <= this.layers && this.shares) return;
    const { gl, canvas } = this;
    gl.deleteTexture(this.shares);
    this.layers = Math.min(Number(gl.getParameter(gl.MAX_ARRAY_TEXTURE_LAYERS)), Math.max(1, wanted));
    this.shares = gl.createTexture()!;
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.shares);
    gl.texStorage3D(gl.TEXTURE_2D_ARRAY, 1, gl.RGBA16F, canvas.width, canvas.height, this.layers);
    gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.texParameteri(gl.TEXTURE_2D_ARRAY, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    this.slots.clear();
  }

  /** Updates the contribution of a lamp or sun. */
  private share(slot: number, { at, aim, cone, inner, outer, falloff, shadows, sun }: Source) {
    const { gl, canvas } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.layer);
    gl.framebufferTextureLayer(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, this.shares, 0, slot >> 2);
    gl.viewport(0, 0, canvas.width, canvas.height);
    const channel = slot & 3;
    gl.colorMask(channel === 0, channel === 1, channel === 2, channel === 3);
    gl.disable(gl.SCISSOR_TEST);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
    if (!sun && Number.isFinite(outer)) {
      const bounds = boundsOf(this.lens, at, outer);
      if (!bounds) return;
      const { left, foot, cell } = this.view;
      const pixel = (v: number, edge: number, most: number) => Math.min(most, Math.max(0, Math.floor((v - edge) / cell)));
      const [x0, x1] = [pixel(bounds[0], left, canvas.width), pixel(bounds[1] + cell, left, canvas.width)];
      const [y0, y1] = [pixel(bounds[2], foot, canvas.height), pixel(bounds[3] + cell, foot, canvas.height)];
      gl.enable(gl.SCISSOR_TEST);
      gl.scissor(x0, y0, Math.max(0, x1 - x0), Math.max(0, y1 - y0));
    }
    const near = shadows ? this.near(at, sun ? Infinity : outer, sun) : [];
    const kind = sun ? 3 : cone ? 2 : aim ? 1 : 0;
    const numbers = { lamp: at, aim: aim ?? [0, 0, 0], cone: cone ?? [0, 0], inner, outer: Math.min(outer, 1e9), falloff };
    this.use(this.shareOf, numbers, { ...this.counts, kind, blockers: near.length, smooth_: this.full ? 1 : 0 }, { surface: this.planes[0]!, facing: this.planes[1]!, solids: this.solids });
    if (near.length > 0 && near.length <= NEARBY) gl.uniform1iv(this.place(this.shareOf, "near"), near);
    this.fill();
    gl.disable(gl.SCISSOR_TEST);
  }

  /** The walls, then the posts, that may stand between a lamp and what it reaches; all, where those are too many for a list. */
  private near(at: Vec3, outer: number, sun: boolean): number[] {
    const { walls, posts } = this.standing;
    const near: number[] = [];
    walls.forEach((wall, n) => wallDistance(wall, at) < outer && near.push(n));
    posts.forEach((post, n) => {
      const apart = Math.hypot(post.at[0] - at[0], post.at[2] - at[2]);
      // A lamp on top of its own post, or in it, is not shut in.
      if (sun || (apart > post.radius && apart - post.radius < outer)) near.push(walls.length + n);
    });
    return near.length > NEARBY ? Array.from({ length: walls.length + posts.length }, (_, n) => n) : near;
  }

  /** Draws the current lamps. Returns whether all cached contributions are current. */
  draw(lamps: Drawn[], around: Surrounding, exposure: number, sky: Vec3): boolean {
    const { gl, canvas } = this;
    const all: { key: string; source: Source; light: readonly number[] }[] = around.suns.map(({ sun, lux, shadows }, n) => ({
      key: `sun ${n}`,
      source: { at: sun, aim: undefined, cone: null, inner: 0, outer: Infinity, falloff: 2, shadows, sun: true },
      light: lux,
    }));
    for (const { key, lamp } of lamps) {
      if (!stands(lamp) || lamp.candelas.every((v) => v <= 0)) continue;
      const { at, aim, cone, inner, outer, falloff, shadows } = lamp;
      all.push({ key, source: { at, aim, cone, inner, outer, falloff, shadows, sun: false }, light: lamp.candelas });
    }
    const shining = new Set(all.map(({ key }) => key));
    // Slots of dark lamps are reused when needed.
    if (shining.size > 4 * this.layers || all.some(({ key }) => !this.slots.has(key))) {
      for (const key of [...this.slots.keys()]) if (!shining.has(key) && this.slots.size >= 4 * this.layers) this.slots.delete(key);
    }
    this.room(all.length);
    const taken = new Set([...this.slots.values()].map(({ slot }) => slot));
    let next = 0;
    for (const { key } of all) {
      if (this.slots.has(key)) continue;
      while (taken.has(next)) next += 1;
      if (next >= 4 * this.layers) break;
      taken.add(next);
      this.slots.set(key, { slot: next, source: null });
    }
    const strengths = new Float32Array(4096 * rows(4 * this.layers));
    let anew = 0;
    let whole = true;
    for (const { key, source, light } of all) {
      const own = this.slots.get(key);
      if (!own) continue;
      if (!own.source || !alike(own.source, source)) {
        if (this.full || anew < ANEW || !own.source) {
          this.share(own.slot, source);
          own.source = source;
          anew += 1;
        } else whole = false;
      }
      strengths.set(light.slice(0, 3), own.slot * 4);
    }
    gl.colorMask(true, true, true, true);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, this.strengths);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA32F, 1024, rows(4 * this.layers), 0, gl.RGBA, gl.FLOAT, strengths);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.viewport(0, 0, canvas.width, canvas.height);
    const { ambient, haze, density } = around;
    this.use(this.shown, { ambient, haze, sky, density, exposure }, { layers: this.layers, smooth_: this.full ? 1 : 0, ...this.counts }, {
      surface: this.planes[0]!, facing: this.planes[1]!, paints: this.planes[2]!, strengths: this.strengths, shares: this.shares!, solids: this.solids,
    });
    this.fill();
    return whole;
  }
}
