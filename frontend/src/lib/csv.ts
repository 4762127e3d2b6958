import Papa from 'papaparse';

/** Cells of a text as spreadsheets copy or write it: parted by tabs, semicolons or commas. */
export function cellsOf(text: string): string[][] {
  const rows = Papa.parse<string[]>(text.replace(/\r\n?/g, '\n').replace(/\n+$/, ''), {
    delimiter: text.includes('\t') ? '\t' : '',
    delimitersToGuess: [',', ';', '\t', '|'],
  }).data;
  return rows.map((r) => r.map((c) => c.trim()));
}

/** Cells as CSV; what a spreadsheet would take for a formula is kept from being one. */
export const csvOf = (rows: string[][]): string => Papa.unparse(rows, { escapeFormulae: true });

/** A text given to the user as a file. */
export function give(name: string, text: string, type = 'text/csv') {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type: `${type};charset=utf-8` }));
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
