import type { DrawingInfo } from '../api/client';

/** What a drawing is called where it is spoken of. */
export const calledOf = (d: DrawingInfo) => d.number || d.title || `drawing ${d.id}`;
