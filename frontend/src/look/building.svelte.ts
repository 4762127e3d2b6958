import { api, done } from '../api/client';
import { notices } from '../lib/notices.svelte';

/** A part that is built anew from its recipe. */
class Building {
  /** What is being built, in words; nothing where nothing is. */
  now = $state('');

  /** Build a part with other values of sizes; its key. Nothing changes where it cannot be built, which is told. */
  async part(part: string, values: { [name: string]: number }): Promise<string> {
    if (this.now) return '';
    this.now = Object.entries(values)
      .map(([name, value]) => `${name} ${value}`)
      .join(', ');
    try {
      return await done(await api.buildAnew(part, values));
    } catch (error) {
      notices.refuse(error);
      return '';
    } finally {
      this.now = '';
    }
  }
}

export const building = new Building();
