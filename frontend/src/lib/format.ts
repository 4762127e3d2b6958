import offered from '../api/offered.json';
import { notices } from './notices.svelte';

/** Words that begin a sentence. */
export const capital = (words: string) => words.slice(0, 1).toUpperCase() + words.slice(1);

/** Figures in words, for the interface. */
export function length(mm: number): string {
  return `${Number(mm.toPrecision(4))}`;
}

/** A figure as it is, without the last digits of reckoning. */
export function figure(value: number): string {
  return `${Number(value.toPrecision(9))}`;
}

/** A figure as it is typed, with a point or a comma; null where it is none. */
export function figureTyped(text: string): number | null {
  const value = Number(text.replace(',', '.').trim());
  return text.trim() && Number.isFinite(value) ? value : null;
}

export function sizeWords(size: number[]): string {
  return `${size.map(length).join(' × ')} mm`;
}

export function massWords(grams: number | null | undefined): string {
  if (grams == null) return 'mass not known';
  if (grams >= 1e6) return `${Number((grams / 1e6).toPrecision(3))} t`;
  return grams >= 1000 ? `${Number((grams / 1000).toPrecision(3))} kg` : `${Number(grams.toPrecision(3))} g`;
}

export function bodiesWords(n: number): string {
  return n === 1 ? '1 body' : `${n} bodies`;
}

export function dateWords(iso: string): string {
  return new Date(iso.endsWith('Z') ? iso : iso + 'Z').toLocaleDateString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
  });
}

/** A scale typed as 1:2, 2:1 or 0.5; null where it is none. */
export function parseScale(text: string): number | null {
  const cleaned = text.trim().replace(',', '.').replace('/', ':');
  const match = /^(\d+(?:\.\d+)?)\s*:\s*(\d+(?:\.\d+)?)$/.exec(cleaned);
  const value = match ? Number(match[1]) / Number(match[2]) : Number(cleaned);
  return cleaned && Number.isFinite(value) && value > 1e-5 && value < 1e4 ? value : null;
}

/** The standard's scales that are offered. */
export const SCALES = offered.scales;

/** Use a typed scale, or say that it is none. */
export function scaled(text: string, set: (scale: number) => unknown) {
  const value = parseScale(text);
  if (value) void set(value);
  else notices.say(`“${text}” is not a scale`, 'Write it as 1:2 or 2:1.', true);
}

/** How many outlines of a view could not be had exactly. */
export function meshWords(count: number): string {
  return count === 1 ? '1 outline drawn from the mesh' : `${count} outlines drawn from the mesh`;
}

/** So many of something, in words. */
export function counted(n: number, one: string, many = `${one}s`): string {
  return n === 1 ? `1 ${one}` : `${n} ${many}`;
}

/** A length as typed, mm; null where none is written. */
export function millimetres(typed: string): number | null {
  const n = Number(typed.replace(',', '.').replace(/[^0-9.]/g, ''));
  return typed === '' || !Number.isFinite(n) ? null : n;
}

/** The words of a choice by its key; those of the first where it is none of them. */
export const named = (list: [string, string][], key: string | undefined) =>
  list.find(([k]) => k === key)?.[1] ?? list[0][1];
