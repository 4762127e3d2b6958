import type { Dimension } from '../../api/client';

/** mm to the right and up at which the text of a size stands out first, at the end of its leader. */
export const AWAY: [number, number] = [12, 12];

/** Whether its text stands out at the end of a leader. */
export const isOut = (d: Partial<Dimension>) => !!(d.place?.aside?.[0] || d.place?.aside?.[1]);
