/** A direction from which a part is looked at: toward the viewer and up, in the part's frame. */
export type Vector = [number, number, number];
export interface Look {
  toward: Vector;
  up: Vector;
}

export const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const scaled = (a: Vector, s: number): Vector => [a[0] * s, a[1] * s, a[2] * s];
export const plus = (a: Vector, b: Vector): Vector => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const unit = (a: Vector): Vector => scaled(a, 1 / (Math.hypot(...a) || 1));

/** A vector turned about an axis (of length 1) by an angle in radians. */
export function turned(v: Vector, axis: Vector, angle: number): Vector {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const first = plus(scaled(v, c), scaled(cross(axis, v), s));
  return plus(first, scaled(axis, dot(axis, v) * (1 - c)));
}

/** The look after the part was turned by a hand that moved right and down by these angles (radians). */
export function orbited({ toward, up }: Look, right: number, down: number): Look {
  const side = cross(up, toward);
  const about = turned(toward, up, -right);
  const level = turned(side, up, -right);
  return { toward: unit(turned(about, level, -down)), up: unit(turned(up, level, -down)) };
}

/** The look rolled about the line of sight, counter-clockwise in degrees as one sees it. */
export function rolled({ toward, up }: Look, degrees: number): Look {
  return { toward, up: unit(turned(up, toward, (-degrees * Math.PI) / 180)) };
}

/** The look straight at a plane, the way up kept as nearly as that goes. */
export function facingPlane(look: Look, normal: Vector): Look {
  const toward = unit(normal);
  const candidates: Vector[] = [look.up, look.toward, cross(look.up, look.toward)];
  const flat = candidates.map((v) => plus(v, scaled(toward, -dot(v, toward))));
  const best =
    flat.find((v) => Math.hypot(...v) > 0.3) ??
    flat.reduce((a, b) => (Math.hypot(...a) > Math.hypot(...b) ? a : b));
  return squared({ toward, up: unit(best) });
}

/** The look rolled so that a direction of the part lies level, by the shorter way. */
export function laidLevel(look: Look, along: Vector): Look {
  const side = cross(look.up, look.toward);
  const angle = (Math.atan2(dot(along, look.up), dot(along, side)) * 180) / Math.PI;
  const short = ((((angle + 90) % 180) + 180) % 180) - 90;
  return rolled(look, -short);
}

/** Directions that are all but those of the axes, as those of the axes. */
export function squared(look: Look): Look {
  const snap = (v: Vector): Vector => {
    const found = v.map((x) =>
      Math.abs(x) < 1e-6 ? 0 : Math.abs(Math.abs(x) - 1) < 1e-6 ? Math.sign(x) : x,
    );
    return found as Vector;
  };
  return { toward: snap(look.toward), up: snap(look.up) };
}

/** The six faces and a corner, for the part's axes. */
export const STANDARD: [string, Look][] = [
  ['Front', { toward: [0, -1, 0], up: [0, 0, 1] }],
  ['Back', { toward: [0, 1, 0], up: [0, 0, 1] }],
  ['Left', { toward: [-1, 0, 0], up: [0, 0, 1] }],
  ['Right', { toward: [1, 0, 0], up: [0, 0, 1] }],
  ['Above', { toward: [0, 0, 1], up: [0, 1, 0] }],
  ['Below', { toward: [0, 0, -1], up: [0, -1, 0] }],
  ['Corner', corner()],
];

function corner(): Look {
  const toward = unit([1, -1, 1]);
  const up = unit(plus([0, 0, 1], scaled(toward, -toward[2])));
  return { toward, up };
}
