import type { Component } from 'svelte';
import type { Operation } from '../../api/client';
import type { Gesture } from '../gestures/gesture';
import type { Target } from '../hits';

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
};
