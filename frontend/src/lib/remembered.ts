/** What is kept in this browser for the next time, by name; nothing where it keeps nothing, as in a private window. */
export function remembered(name: string): string {
  try {
    return localStorage.getItem(name) ?? '';
  } catch {
    return '';
  }
}

export function remember(name: string, value: string) {
  try {
    localStorage.setItem(name, value);
  } catch {
    /* not kept then */
  }
}
