import { api, type PartInfo } from '../api/client';
import { notices } from '../lib/notices.svelte';
import type { Look } from './turning';

/** A direction that was chosen on one page for another. */
class Chosen {
  now = $state.raw<{ part: string; look: Look } | null>(null);

  /** What was chosen for a part, once. */
  take(part: string): Look | null {
    const found = this.now?.part === part ? this.now.look : null;
    this.now = null;
    return found;
  }
}

export const chosen = new Chosen();

/** Directions kept with a part under names: keep one more, forget one. */
export function keeping(part: () => PartInfo | null, onchange: (now: PartInfo) => void) {
  async function set(directions: PartInfo['directions']) {
    const now = part();
    if (!now) return;
    try {
      onchange(await api.changePart(now.key, { directions, directions_seen: now.directions }));
    } catch (error) {
      notices.refuse(error);
    }
  }
  const others = (name: string) => (part()?.directions ?? []).filter((d) => d.name !== name);
  return {
    keep: (name: string, look: Look) => set([...others(name), { name, toward: look.toward, up: look.up }]),
    forget: (name: string) => set(others(name)),
  };
}
