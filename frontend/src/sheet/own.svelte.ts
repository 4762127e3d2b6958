import { api, type OwnSigns } from '../api/client';
import { notices } from '../lib/notices.svelte';
import { interaction } from './interaction.svelte';
import { kinds } from './kinds';
import { settingAnew } from './making/hang.svelte';
import { selected } from './selection.svelte';
import { work } from './work.svelte';

/** Signs and notes of one's own, kept under names for any drawing. */
class Own {
  list = $state.raw<OwnSigns[]>([]);

  async load() {
    try {
      this.list = await api.own();
    } catch {
      this.list = [];
    }
  }

  /** Keep what is selected, with what is stacked under it. */
  async keep(name: string) {
    const found = work.selectedWithStacked();
    if (!found.length) {
      notices.say('There is nothing to keep', 'Select a sign, a note, a size or a table first.', true);
      return;
    }
    await api.keepOwn(name, found);
    await this.load();
    notices.say(`Kept as ${name}`, 'It stands in step 7 of every drawing.');
  }

  async remove(id: number) {
    await api.removeOwn(id);
    await this.load();
  }
}

export const own = new Own();

/** What was copied put on the selected view, or, where none is, signs set down where the hand points. */
export function putCopied() {
  const set = work.copied.some((a) => ['sign', 'size'].includes(kinds.get(a.kind)?.counts ?? ''));
  if (set && !work.view(selected.one)) interaction.make(settingAnew(work.copied));
  else void work.paste();
}
