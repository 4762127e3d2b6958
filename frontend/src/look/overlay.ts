import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineDashedMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  type Color,
} from 'three';
import { segmentsOf, trianglesOf, type Shape } from './shape';

/** What differs of two revisions: faces and lines by their rows, before and after; `turn` (by rows) and `by` tell where a point of
 * the one before stands in the other. */
export interface Differing {
  turn: number[];
  by: number[];
  faces: [number[], number[]];
  lines: [number[], number[]];
}

/** Another revision over a part: its lines that are gone in broken lines, its faces that are gone clear, what is new in the part lit. */
export function overlay(
  shape: Shape,
  former: Shape,
  { turn, by, faces, lines }: Differing,
  token: (name: string) => Color,
): Group {
  const [a, b, c, d, e, f, g, h, i] = turn;
  const was = new Group();
  was.matrixAutoUpdate = false;
  was.matrix.set(a, b, c, by[0], d, e, f, by[1], g, h, i, by[2], 0, 0, 0, 1);
  const dash = Math.hypot(...shape.high.map((top, k) => top - shape.low[k])) / 90;
  const gone = new LineSegments(
    segmentsAlong(former, lines[0]),
    new LineDashedMaterial({
      color: token('--sheet-madder'),
      dashSize: dash,
      gapSize: dash / 2,
      depthTest: false,
    }),
  );
  gone.computeLineDistances();
  const fresh = new LineSegments(
    segmentsAlong(shape, lines[1]),
    new LineBasicMaterial({ color: token('--sheet-verd'), depthTest: false }),
  );
  was.add(patch(former, faces[0], token('--sheet-madder'), 0.22), gone);
  const found = new Group();
  found.add(was, patch(shape, faces[1], token('--sheet-verd'), 0.4), fresh);
  return found;
}

/** Free what the graphics hold of an overlay. */
export function dispose(laid: Group) {
  laid.traverse((each) => {
    if (each instanceof Mesh || each instanceof LineSegments) each.geometry.dispose();
  });
}

/** Faces of a shape, by their rows, as a surface that is seen through. */
function patch(shape: Shape, faces: number[], color: Color, opacity: number): Mesh {
  const surface = new BufferGeometry();
  surface.setAttribute('position', new BufferAttribute(shape.nodes, 3));
  surface.setIndex(trianglesOf(shape, faces));
  return new Mesh(
    surface,
    new MeshBasicMaterial({
      color,
      opacity,
      transparent: true,
      side: DoubleSide,
      depthWrite: false,
      polygonOffset: true,
      polygonOffsetFactor: -1,
      polygonOffsetUnits: -1,
    }),
  );
}

/** Some edges of a shape, by their places, as pairs of points. */
function segmentsAlong(shape: Shape, edges: number[]): BufferGeometry {
  const wanted = new Set(edges);
  const [segments, owners] = segmentsOf(shape);
  const own: number[] = [];
  owners.forEach((edge, k) => {
    if (wanted.has(edge)) own.push(...segments.subarray(6 * k, 6 * k + 6));
  });
  const found = new BufferGeometry();
  found.setAttribute('position', new BufferAttribute(new Float32Array(own), 3));
  return found;
}
