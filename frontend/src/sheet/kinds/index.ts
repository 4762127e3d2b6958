import type { Kind } from './kind';

const files = import.meta.glob<{ default: Kind }>('./*.kind.ts', { eager: true });

/** All kinds of elements, by the server's name: each file named `….kind.ts` beside this one is one. */
export const kinds = new Map(Object.values(files).map(({ default: k }) => [k.kind, k]));

export type { Kind, Offer } from './kind';
