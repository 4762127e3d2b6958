/** The view to which a cutting line, ring, arrow or caption belongs. */
export const viewOf = (element: string) => element.replace(/-(line|ring|sight|caption|hatch)$/, '');
