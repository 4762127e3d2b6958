import { interaction } from '../interaction.svelte';
import { pullable } from '../board/pointing';
import { windowOf } from '../gestures/window.svelte';
import { forSizes, type Target } from '../board/hits';
import { work } from '../work.svelte';
import type { Making } from './making';

const FORMS = [
  ['chain', 'as a chain'],
  ['parallel', 'in parallel from the first'],
  ['running', 'running from the first'],
  ['ordinates', 'running both ways'],
  ['symmetrical', 'symmetrical about the middle'],
] as const;

type Form = (typeof FORMS)[number][0];
const STATIONS = [4, 6, 8, 12, 20];

/** A set of sizes: places clicked one after another, then its line set down beside them. A free curve stands for so many
 * stations on it. */
export function stating(first?: Target, begun: Form = 'chain'): Making {
  const picks: Target[] = first ? [first] : [];
  let form = $state<Form>(begun);
  let stations = $state(6);
  const curved = () => picks.some((t) => t.shape === 'curve');
  const enough = () => picks.length > 1 || curved();
  const again = (t: Target) => picks.some((p) => p.ref === t.ref && p.at === t.at);
  return {
    words: () =>
      enough()
        ? 'click beside them to set the row down'
        : picks.length
          ? 'click the next place'
          : 'click the places one after another',
    act: () =>
      enough()
        ? {
            act: 'state_row',
            view: picks[0].view,
            picks: picks.map((t) => ({ ref: t.ref, at: t.at, x: t.x, y: work.up([t.x, t.y])[1] })),
            pointer: work.up(interaction.pointer),
            form,
            stations,
          }
        : null,
    click() {
      const t = interaction.target;
      if (t && pullable(t) && t.ref && (!picks.length || t.view === picks[0].view)) {
        if (again(t)) return enough();
        picks.push(t);
        return false;
      }
      return enough();
    },
    drag(from) {
      // a window over the wanted ones: the centres in it, or the straight edges where there are none
      const view = picks[0]?.view || interaction.viewFor('');
      let box = $state.raw<[number, number, number, number]>([...from, ...from]);
      return {
        cursor: 'crosshair',
        get window() {
          return box;
        },
        move(at) {
          box = windowOf(from, at);
        },
        up() {
          if (box[2] - box[0] < 2 && box[3] - box[1] < 2) return interaction.makingClick();
          const within = (work.hits?.all(view) ?? []).filter(
            (t) => t.x >= box[0] && t.x <= box[2] && t.y >= box[1] && t.y <= box[3] && !forSizes(t),
          );
          const centres = within.filter((t) => t.kind === 'point' && t.at === 'centre');
          const holes = centres.filter((t) => t.full);
          const lines = within.filter((t) => t.shape === 'straight');
          const chosen = [holes, centres, lines].find((found) => found.length > 1) ?? centres;
          picks.push(...chosen.filter((t) => !again(t)));
          interaction.follow();
        },
        cancel: () => interaction.stop(),
      };
    },
    back() {
      return picks.length > 0 && !!picks.pop();
    },
    catches: () => true,
    measures: true,
    picks: () => picks,
    among: () => (picks.length ? [picks[0].view] : []),
    others: () => [
      ...FORMS.filter(([f]) => f !== form).map(([f, name]) => ({
        name,
        run: () => {
          form = f;
          interaction.follow();
        },
      })),
      ...(curved()
        ? [
            {
              name: `${STATIONS[(STATIONS.indexOf(stations) + 1) % STATIONS.length]} stations on the curve`,
              run: () => {
                stations = STATIONS[(STATIONS.indexOf(stations) + 1) % STATIONS.length];
                interaction.follow();
              },
            },
          ]
        : []),
    ],
  };
}

/** One more place for the set of a size. */
export function addingTo(id: string): Making {
  let picked: Target | undefined;
  return {
    words: () => 'click the place that is to be measured too',
    act: () =>
      picked
        ? {
            act: 'change_row',
            id,
            add: { ref: picked.ref, at: picked.at, x: picked.x, y: work.up([picked.x, picked.y])[1] },
          }
        : null,
    click() {
      const t = interaction.target;
      if (!t?.ref || !pullable(t)) {
        interaction.words = 'click an edge, a centre or an end';
        return false;
      }
      picked = t;
      return true;
    },
    catches: () => true,
    measures: true,
  };
}

/** Another datum for the set of a size. */
export function datumFor(id: string): Making {
  let at: [number, number] | null = null;
  return {
    words: () => 'click the place from which all are to be measured',
    act: () => (at ? { act: 'change_row', id, datum: at } : null),
    click() {
      const t = interaction.target;
      at = work.up(t?.kind === 'point' ? [t.x, t.y] : interaction.pointer);
      return true;
    },
    catches: () => true,
  };
}
