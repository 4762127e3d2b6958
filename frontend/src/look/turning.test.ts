import { describe, expect, it } from 'vitest';
import {
  cross,
  dot,
  facingPlane,
  laidLevel,
  orbited,
  rolled,
  STANDARD,
  unit,
  type Look,
  type Vector,
} from './turning';

const front: Look = STANDARD[0][1];
const close = (a: Vector, b: Vector) => a.forEach((x, k) => expect(x).toBeCloseTo(b[k], 9));

describe('turning a look', () => {
  it('goes to the right face where the part is turned a quarter to the left', () => {
    const found = orbited(front, -Math.PI / 2, 0);
    close(found.toward, [1, 0, 0]);
    close(found.up, [0, 0, 1]);
  });
  it('goes to above where the part is pulled down by a quarter', () => {
    close(orbited(front, 0, Math.PI / 2).toward, [0, 0, 1]);
  });
  it('rolls counter-clockwise as one sees it', () => {
    // what pointed up points left then, so up is what pointed right
    close(rolled(front, 90).up, [1, 0, 0]);
  });
  it('looks straight at a slanted plane and keeps both directions square', () => {
    const found = facingPlane(front, [0, -0.6, 0.8]);
    close(found.toward, [0, -0.6, 0.8]);
    expect(dot(found.toward, found.up)).toBeCloseTo(0, 12);
    expect(Math.hypot(...found.up)).toBeCloseTo(1, 12);
  });
  it('lays an edge level by the shorter way', () => {
    const edge = unit([1, 0, 0.5]);
    const found = laidLevel(front, edge);
    expect(dot(edge, found.up)).toBeCloseTo(0, 12);
    expect(dot(edge, cross(found.up, found.toward))).toBeCloseTo(1, 12);
  });
});
