import type { Component } from 'svelte';
import type { Annotation, Operation } from '../../api/client';
import type { Gesture } from '../gestures/gesture';
import type { Target } from '../board/hits';

/** An act that fits what is selected. */
export type Offer = { name: string; run: () => unknown };

/** What the screen knows of a kind of element. A file of this folder for each. */
export type Kind = {
  /** As the server calls it. */
  kind: string;
  /** One of them, and several, in words. */
  noun: [string, string];
  /** Its sentence; without one it says what it is. */
  sentence?: Component<{ id: string }>;
  /** Acts that fit one that is selected, likeliest first. */
  offers: (id: string) => Offer[];
  /** Dragging one. */
  drag?: (target: Target, from: [number, number]) => Gesture;
  /** What moves one by so many mm (y up). */
  moved?: (id: string, dx: number, dy: number) => Operation[];
  /** True where something can be measured from it, so that it is pulled like geometry. */
  measured?: boolean;
  /** As what the route card and the finder list it: what is said of the part, marks of centres, lines of
   * axes, or signs and notes. */
  counts?: 'size' | 'mark' | 'axis' | 'sign';
  /** True where signs can hang on it. */
  carries?: boolean;
  /** What one is, in a list of sizes. */
  says?: (own: Annotation) => string;
  /** True where its look can be given to others. */
  looked?: boolean;
  /** True where its ends can be dragged. */
  ended?: boolean;
  /** True where it tells of a view, which is selected in its place. */
  ofView?: boolean;
  /** What is put before its words where it is pointed at. */
  spoken?: string;
  /** How near it counts where several things are pointed at: the less, the sooner it is meant. */
  rank?: number;
  /** True where it is taken anywhere within its outline, not on its lines alone. */
  filled?: boolean;
  /** False where a window that is drawn around it does not take it. */
  windowed?: boolean;
  /** What of the part it stands for when it is caught. */
  caught?: (own: Annotation) => { ref: string; at: string } | undefined;
  /** Which place of it is meant where it is pointed at to be measured, by its id; a centre or an axis where it does not say. */
  picked?: (id: string) => string;
  /** Acts that fit several of them. */
  several?: (ids: string[]) => Offer[];
};
