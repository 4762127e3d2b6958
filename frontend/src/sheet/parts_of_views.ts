/** The view to which a cutting line, ring, arrow or caption belongs. */
export const viewOf = (element: string) => element.replace(/-(line|ring|sight|caption|hatch|threads)$/, '');

/** What is drawn of a view itself: its lines, its hatch and its threads. */
export const drawnOf = (view: string) => [view, `${view}-hatch`, `${view}-threads`];
