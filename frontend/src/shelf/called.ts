import type { DrawingInfo } from '../api/client';

/** What a drawing is called where it is spoken of. */
export const calledOf = (d: DrawingInfo) => d.number || d.title || `drawing ${d.id}`;

/** What a part is called where it is spoken of. */
export const partCalled = (p: { number: string; name: string }) =>
  [p.number, p.name].filter(Boolean).join(' ');

/** What the files of parts end in. */
export const PART_FILES = '.step,.stp,.p21,.iges,.igs,.brep,.brp,.recipe,.zip';
