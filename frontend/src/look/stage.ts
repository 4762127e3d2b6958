import {
  AmbientLight,
  BufferAttribute,
  BufferGeometry,
  Color,
  DirectionalLight,
  DoubleSide,
  type Group,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  OrthographicCamera,
  Raycaster,
  Scene,
  Vector2,
  Vector3,
  WebGLRenderer,
} from 'three';
import { dispose, overlay, type Differing } from './overlay';
import { segmentsOf, trianglesOf, type Shape } from './shape';
import { cross, plus, scaled, unit, type Look, type Vector } from './turning';

const NEAR_PX = 7;
/** Points of edges from which on these are left out while the part turns. */
const MANY = 120_000;

/** What is under the pointer: a face with its kind and normal or axis, or a straight edge with its direction. */
export type Caught =
  | { kind: 'face'; face: number; plane: boolean; axis: Vector }
  | { kind: 'edge'; edge: number; along: Vector };

/** A part in space: what it looks like from a direction, and what is under the pointer. Drawn only when it is asked to. */
export class Stage {
  look: Look;
  private scene = new Scene();
  private camera = new OrthographicCamera(-1, 1, 1, -1, 0.1, 10);
  private renderer: WebGLRenderer;
  private solid: Mesh;
  private lines: LineSegments;
  private lit: Mesh;
  private litLine: LineSegments;
  private light = new DirectionalLight(0xffffff, 2.2);
  private segmentEdge: Uint32Array;
  private size: number;
  private target: Vector = [0, 0, 0];
  /** mm of the part that the height of the picture shows. */
  private height = 1;
  private asked = 0;
  private moving = false;
  /** The triangles that are shown, by their rows; all of them as long as no body was switched off. */
  private rows: number[] | null = null;
  /** What is laid over the part of another revision. */
  private over: Group | null = null;

  /** Raises where the browser has no way to draw in space. */
  constructor(
    private canvas: HTMLCanvasElement,
    private shape: Shape,
    look: Look,
  ) {
    this.look = look;
    const token = (name: string) => this.token(name);
    const lit = token('--sheet-verd');
    this.renderer = new WebGLRenderer({ canvas, antialias: true, alpha: true });
    this.size = Math.hypot(...shape.high.map((h, k) => h - shape.low[k])) || 1;
    const nodes = new BufferAttribute(shape.nodes, 3);
    const surface = new BufferGeometry();
    surface.setAttribute('position', nodes);
    surface.setAttribute('normal', new BufferAttribute(shape.normals, 3));
    surface.setIndex(new BufferAttribute(shape.triangles, 1));
    this.solid = new Mesh(
      surface,
      new MeshLambertMaterial({
        color: token('--clay'),
        side: DoubleSide,
        polygonOffset: true,
        polygonOffsetFactor: 1,
        polygonOffsetUnits: 1,
      }),
    );
    const [segments, owners] = segmentsOf(shape);
    this.segmentEdge = owners;
    const edges = new BufferGeometry();
    edges.setAttribute('position', new BufferAttribute(segments, 3));
    this.lines = new LineSegments(edges, new LineBasicMaterial({ color: token('--pen') }));
    this.lit = new Mesh(
      new BufferGeometry(),
      new MeshBasicMaterial({
        color: lit,
        transparent: true,
        opacity: 0.45,
        side: DoubleSide,
        depthTest: true,
      }),
    );
    this.litLine = new LineSegments(
      new BufferGeometry(),
      new LineBasicMaterial({ color: lit, depthTest: false }),
    );
    this.lit.geometry.setAttribute('position', nodes);
    this.scene.add(
      new AmbientLight(0xffffff, 1.4),
      this.light,
      this.solid,
      this.lines,
      this.lit,
      this.litLine,
    );
    this.lit.visible = this.litLine.visible = false;
  }

  /** Free what the graphics hold. */
  end() {
    cancelAnimationFrame(this.asked);
    for (const each of [this.solid, this.lines, this.lit, this.litLine]) each.geometry.dispose();
    this.renderer.dispose();
  }

  /** Fit to the window; all of the part is shown. */
  fit() {
    const { width, height } = this.measure();
    const side = cross(this.look.up, this.look.toward);
    let [x, y] = [1e-9, 1e-9];
    for (let k = 0; k < 8; k++) {
      const p = [0, 1, 2].map((i) => ((k >> i) & 1 ? this.shape.high[i] : this.shape.low[i])) as Vector;
      x = Math.max(x, Math.abs(p[0] * side[0] + p[1] * side[1] + p[2] * side[2]));
      y = Math.max(y, Math.abs(p[0] * this.look.up[0] + p[1] * this.look.up[1] + p[2] * this.look.up[2]));
    }
    this.target = [0, 0, 0];
    this.height = 2.2 * Math.max(y, (x * height) / width);
    this.draw();
  }

  turnTo(look: Look, fit = false) {
    this.look = look;
    if (fit) this.fit();
    else this.draw();
  }

  /** Move the picture by so many pixels. */
  pan(dx: number, dy: number) {
    const mm = this.height / this.measure().height;
    const side = cross(this.look.up, this.look.toward);
    this.target = plus(this.target, plus(scaled(side, -dx * mm), scaled(this.look.up, dy * mm)));
    this.draw();
  }

  /** Larger or smaller about a place of the picture (pixels from its upper left). */
  zoom(factor: number, x = this.measure().width / 2, y = this.measure().height / 2) {
    const { width, height } = this.measure();
    const next = Math.min(Math.max(this.height / factor, this.size / 500), this.size * 20);
    const gone = (this.height - next) / height;
    const side = cross(this.look.up, this.look.toward);
    this.target = plus(
      this.target,
      plus(scaled(side, (x - width / 2) * gone), scaled(this.look.up, (height / 2 - y) * gone)),
    );
    this.height = next;
    this.draw();
  }

  /** Bodies that are shown, by their rows. */
  show(left: Set<number>) {
    const { triangles, face_of, face_body, line_body } = this.shape;
    const rows: number[] = [];
    face_of.forEach((face, t) => {
      if (!left.has(face_body[face])) rows.push(t);
    });
    this.rows = rows;
    this.solid.geometry.setIndex(
      rows.flatMap((t) => [triangles[3 * t], triangles[3 * t + 1], triangles[3 * t + 2]]),
    );
    const segments: number[] = [];
    this.segmentEdge.forEach((edge, k) => {
      if (!left.has(line_body[edge])) segments.push(2 * k, 2 * k + 1);
    });
    this.lines.geometry.setIndex(segments);
    this.draw();
  }

  /** Lay another revision over the part, in place of what was laid over it. */
  compare(former: Shape, differing: Differing) {
    if (this.over) {
      this.scene.remove(this.over);
      dispose(this.over);
    }
    this.over = overlay(this.shape, former, differing, (name) => this.token(name));
    this.scene.add(this.over);
    this.draw();
  }

  private token(name: string): Color {
    return new Color(getComputedStyle(this.canvas).getPropertyValue(name).trim());
  }

  /** While a hand turns the part, a very large one shows its faces alone. */
  turning(on: boolean) {
    this.moving = on;
    this.lines.visible = !(on && this.segmentEdge.length > MANY);
    if (!on) this.draw();
  }

  /** What is under a place of the picture (pixels from its upper left): a straight edge before the face beside it. */
  at(x: number, y: number): Caught | null {
    const { width, height } = this.measure();
    const spot = new Vector2((2 * x) / width - 1, 1 - (2 * y) / height);
    const caster = new Raycaster();
    this.place();
    caster.setFromCamera(spot, this.camera);
    const hit = caster.intersectObject(this.solid)[0];
    caster.params.Line.threshold = (NEAR_PX * this.height) / height;
    const reach = hit ? hit.distance + 2 * caster.params.Line.threshold : Infinity;
    const near = caster
      .intersectObject(this.lines)
      .filter((i) => i.distance < reach && this.shape.line_straight[this.edgeAt(i.index!)])
      .sort((a, b) => this.off(a.point, caster) - this.off(b.point, caster))[0];
    if (near) {
      const edge = this.edgeAt(near.index!);
      return { kind: 'edge', edge, along: this.along(edge) };
    }
    if (!hit) return null;
    const row = hit.faceIndex!;
    const face = this.shape.face_of[this.rows ? this.rows[row] : row];
    const axis = [...this.shape.face_axis.subarray(3 * face, 3 * face + 3)] as Vector;
    return { kind: 'face', face, plane: this.shape.face_kind[face] === 1, axis };
  }

  private off(point: Vector3, caster: Raycaster) {
    return caster.ray.distanceSqToPoint(point);
  }

  /** The edge of a row of the shown segments' points. */
  private edgeAt(index: number): number {
    const own = this.lines.geometry.index;
    return this.segmentEdge[Math.floor((own ? own.getX(index) : index) / 2)];
  }

  private along(edge: number): Vector {
    const { lines, line_starts } = this.shape;
    const [a, b] = [line_starts[edge], line_starts[edge + 1] - 1];
    return unit([0, 1, 2].map((i) => lines[3 * b + i] - lines[3 * a + i]) as Vector);
  }

  /** Mark what is pointed at. */
  mark(caught: Caught | null) {
    this.lit.visible = caught?.kind === 'face';
    this.litLine.visible = caught?.kind === 'edge';
    if (caught?.kind === 'face') {
      this.lit.geometry.setIndex(trianglesOf(this.shape, [caught.face]));
    } else if (caught?.kind === 'edge') {
      const [a, b] = [this.shape.line_starts[caught.edge], this.shape.line_starts[caught.edge + 1]];
      const ends = new Float32Array([
        ...this.shape.lines.subarray(3 * a, 3 * a + 3),
        ...this.shape.lines.subarray(3 * b - 3, 3 * b),
      ]);
      this.litLine.geometry.setAttribute('position', new BufferAttribute(ends, 3));
    }
    this.draw();
  }

  private measure() {
    return { width: Math.max(1, this.canvas.clientWidth), height: Math.max(1, this.canvas.clientHeight) };
  }

  private place() {
    const { width, height } = this.measure();
    const half = this.height / 2;
    const across = (half * width) / height;
    Object.assign(this.camera, {
      left: -across,
      right: across,
      top: half,
      bottom: -half,
      far: 6 * this.size,
    });
    const { toward, up } = this.look;
    const side = cross(up, toward);
    const turn = new Matrix4().makeBasis(new Vector3(...side), new Vector3(...up), new Vector3(...toward));
    this.camera.quaternion.setFromRotationMatrix(turn);
    this.camera.position.set(...plus(this.target, scaled(toward, 3 * this.size)));
    this.camera.updateProjectionMatrix();
    this.camera.updateMatrixWorld();
    this.light.position.set(...plus(scaled(toward, 1), plus(scaled(up, 0.7), scaled(side, -0.5))));
  }

  /** Draw as soon as the screen is ready for it. */
  draw() {
    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => {
      const { width, height } = this.measure();
      const ratio = this.moving ? 1 : Math.min(2, devicePixelRatio);
      this.renderer.setPixelRatio(ratio);
      this.renderer.setSize(width, height, false);
      this.place();
      this.renderer.render(this.scene, this.camera);
    });
  }
}
