import type { Target } from './board/hits';

export type Selection =
  { kind: 'sheet' } | { kind: 'elements'; ids: string[] } | { kind: 'geometry'; targets: Target[] };

/** What is selected: the sheet, some elements of it, or geometry of one view. */
class Selected {
  now = $state.raw<Selection>({ kind: 'sheet' });

  /** The selected elements, in the order in which they were chosen. */
  get ids(): string[] {
    return this.now.kind === 'elements' ? this.now.ids : [];
  }

  /** The one selected element; empty where there is none, or several. */
  get one(): string {
    return this.ids.length === 1 ? this.ids[0] : '';
  }

  get targets(): Target[] {
    return this.now.kind === 'geometry' ? this.now.targets : [];
  }

  nothing() {
    this.now = { kind: 'sheet' };
  }

  elements(...ids: string[]) {
    this.now = ids.length ? { kind: 'elements', ids } : { kind: 'sheet' };
  }

  geometry(...targets: Target[]) {
    this.now = targets.length ? { kind: 'geometry', targets } : { kind: 'sheet' };
  }

  /** Take an element into the selection, or out of it. */
  toggle(id: string) {
    const ids = this.ids;
    this.elements(...(ids.includes(id) ? ids.filter((x) => x !== id) : [...ids, id]));
  }

  /** Forget what is not there any more. */
  keep(alive: Set<string>) {
    if (this.now.kind === 'elements' && !this.ids.every((id) => alive.has(id)))
      this.elements(...this.ids.filter((id) => alive.has(id)));
  }
}

export const selected = new Selected();
