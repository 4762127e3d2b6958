/** A part in space, as the server sends it: see core/part/shape.py for what the bytes are. */
export interface Shape {
  bodies: string[];
  low: [number, number, number];
  high: [number, number, number];
  nodes: Float32Array;
  normals: Float32Array;
  triangles: Uint32Array;
  /** The face of each triangle; of each face its body, its kind (1: plane, 2: cylinder), and its normal or axis. */
  face_of: Uint32Array;
  face_body: Uint32Array;
  face_kind: Uint32Array;
  face_axis: Float32Array;
  /** Edges as polylines one after the other, and where each begins. */
  lines: Float32Array;
  line_starts: Uint32Array;
  line_straight: Uint32Array;
  /** 0: sharp, 1: tangent. */
  line_class: Uint32Array;
  line_body: Uint32Array;
}

interface Header {
  arrays: { name: string; type: 'f4' | 'u4'; shape: number[] }[];
  bodies: string[];
  low: [number, number, number];
  high: [number, number, number];
}

/** Take the bytes of a part apart; the arrays are views of them. */
export function shapeFrom(data: ArrayBuffer): Shape {
  const length = new DataView(data).getUint32(0, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length))) as Header;
  let at = 4 + length;
  const found: { [name: string]: unknown } = {
    bodies: header.bodies,
    low: header.low,
    high: header.high,
  };
  for (const { name, type, shape } of header.arrays) {
    const count = shape.reduce((a, b) => a * b, 1);
    found[name] = type === 'f4' ? new Float32Array(data, at, count) : new Uint32Array(data, at, count);
    at += 4 * count;
  }
  return found as unknown as Shape;
}

/** Edges as pairs of points, and the edge of each pair. */
export function segmentsOf(shape: Shape): [Float32Array, Uint32Array] {
  const { lines, line_starts } = shape;
  const count = Math.max(0, lines.length / 3 - (line_starts.length - 1));
  const found = new Float32Array(6 * count);
  const owners = new Uint32Array(count);
  let k = 0;
  for (let edge = 0; edge + 1 < line_starts.length; edge++)
    for (let p = line_starts[edge]; p + 1 < line_starts[edge + 1]; p++, k++) {
      found.set(lines.subarray(3 * p, 3 * p + 6), 6 * k);
      owners[k] = edge;
    }
  return [found, owners];
}

/** The triangles of some faces of a shape, by their rows, as places of its nodes. */
export function trianglesOf(shape: Shape, faces: number[]): number[] {
  const wanted = new Set(faces);
  const found: number[] = [];
  shape.face_of.forEach((face, t) => {
    if (wanted.has(face)) found.push(...shape.triangles.subarray(3 * t, 3 * t + 3));
  });
  return found;
}
