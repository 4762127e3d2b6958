import type { Act, FrameAct } from '../../api/client';
import type { Gesture } from '../gestures/gesture';
import type { Target } from '../board/hits';

/** Signs that are typed, as the server calls them. */
export type TypedSign = 'edge_sign' | 'weld' | 'centre_hole' | 'knurl' | 'datum_target' | 'treated_stretch';
export type Sign = 'frame' | 'datum' | 'texture' | 'note' | TypedSign;

/** What is written while an act is in the making: what sign it is for, and of a frame the act that tells where it hangs. */
export type Written = {
  sign: Sign | 'notes' | 'table';
  text: string;
  frame?: FrameAct;
  set(text: string): void;
};

/** An act in the making: it follows the pointer until it is set down. A file of this folder for each. */
export interface Making {
  /** What the hand is to do, as long as there is nothing to show. */
  words(): string;
  /** The act for where the pointer is; none as long as more is to be shown first. */
  act(): Act | null;
  /** A click; true where it sets the act down. */
  click(): boolean;
  /** A stroke that begins where the hand presses. */
  drag?(from: [number, number]): Gesture | null;
  /** Take the last click back; true where there was one. */
  back?(): boolean;
  /** Keys and what they stand for while it is being made. */
  others?(): { name: string; run: () => void }[];
  /** The view that is selected when it is done, where none is made. */
  view?(): string;
  /** Elements in whose place the preview stands. */
  hides?(): string[];
  /** What has been picked for it so far: geometry, and elements. */
  picks?(): Target[];
  picked?(): string[];
  /** It is about sizes: sides of circles and corners that were rounded away can be caught too. */
  measures?: boolean;
  /** It has no preview. */
  still?: boolean;
  /** Views through whose geometry the hand goes by keys. */
  among?(): string[];
  /** What is written for it, in a slip beside it. */
  written?(): Written | null;
  /** What is made next when it has been set down, if more are set at one stroke. */
  again?(): Making | null;
  /** What is caught is said at the pointer. */
  catches?(): boolean;
}
