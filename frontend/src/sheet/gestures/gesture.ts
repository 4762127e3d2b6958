import type { Element } from '../../api/client';
import type { Guide } from '../board/snapping';

/** A hand at work from pressing to letting go. A file of this folder for each. */
export interface Gesture {
  cursor: string;
  /** Elements that are not drawn meanwhile, since their preview is. */
  hides?: Set<string>;
  /** Groups of elements that go along, and how far (mm, y down). */
  carries?: Set<string>;
  by?: [number, number];
  /** What is being drawn besides. */
  picks?: { marks: NonNullable<Element['marks']>; owner: string; x: number; y: number; kind: string }[];
  /** What it was caught by. */
  guides?: Guide[];
  /** What is wrong with letting go here. */
  warns?: string;
  window?: [number, number, number, number];
  /** The pointer has moved to a place of the sheet. */
  move(at: [number, number], e: PointerEvent): void;
  /** The hand lets go there. */
  up(at: [number, number], e: PointerEvent): unknown;
  /** It is called off. */
  cancel?(): void;
}
