import type { View } from '../../api/client';
import { writingOn } from '../making/hang.svelte';
import { contour } from '../fetching';
import { interaction } from '../interaction.svelte';
import { gestureOfView } from '../gestures/view.svelte';
import { turningIn } from '../making/between';
import { breaking, breakingWhereFree } from '../making/break';
import { cropping, halved } from '../making/crop';
import { enlarging } from '../making/enlarge';
import { layingFlat, mirroring } from '../making/derived';
import { leavingRib } from '../making/rib';
import ViewSentence from '../sentences/ViewSentence.svelte';
import { work } from '../work.svelte';
import type { Kind, Offer } from './kind';

/** What can be left out of a view, or shown nearer. */
function pieces(view: View): Offer[] {
  const found: Offer[] = [{ name: 'Enlarge a place', run: () => interaction.make(enlarging(view.id)) }];
  if (view.kind !== 'detail') {
    if (view.breaks?.length)
      found.push({ name: 'Close its breaks', run: () => work.setView(view.id, { breaks: [] }) });
    else
      found.push({
        name: 'Break it where nothing is',
        run: () => interaction.make(breakingWhereFree(view.id)),
      });
    found.push({
      name: 'Turn a section in between break lines',
      run: () => interaction.make(turningIn(view.id)),
    });
    found.push({ name: 'Take a stretch out', run: () => interaction.make(breaking(view.id)) });
    if (view.crop) found.push({ name: 'Show all of it', run: () => work.setView(view.id, { crop: null }) });
    else {
      found.push({ name: 'Crop to an outline', run: () => interaction.make(cropping(view.id)) });
      found.push({ name: 'The right half alone', run: () => halved(view.id, [1, 0]) });
      found.push({ name: 'The upper half alone', run: () => halved(view.id, [0, 1]) });
      found.push({ name: 'A quarter alone', run: () => halved(view.id, [1, 1]) });
    }
  }
  found.push({
    name: 'Turn it by a quarter',
    run: () => work.setView(view.id, { turn: (((view.turn ?? 0) + 270) % 360) - 180, tied: false }),
  });
  if (view.turn) found.push({ name: 'Turn it back', run: () => work.setView(view.id, { turn: 0 }) });
  return found;
}

const kind: Kind = {
  kind: 'view',
  noun: ['view', 'views'],
  sentence: ViewSentence,
  offers(id) {
    const view = work.view(id);
    if (!view) return [];
    const found: Offer[] = [];
    if (view.kind === 'section') {
      found.push({
        name: 'Look the other way',
        run: () => work.setView(id, { side: view.side === 1 ? -1 : 1 }),
      });
      if (!view.within)
        found.push({
          name: view.bare ? 'Show what lies behind' : 'The cut face alone',
          run: () => work.setView(id, { bare: !view.bare }),
        });
      if (!view.bare && !view.within)
        found.push({ name: 'Leave a rib uncut', run: () => interaction.make(leavingRib(id)) });
    } else if (view.kind === 'pictorial') {
      if ((work.ink?.views.find((v) => v.id === id)?.bodies.length ?? 0) > 1)
        found.push(
          view.apart?.length
            ? { name: 'Put it together again', run: () => work.setView(id, { apart: [] }) }
            : { name: 'Pull it apart', run: () => work.act({ act: 'explode', view: id }) },
        );
      found.push({
        name: view.quarter ? 'Put the quarter back' : 'Take a quarter out',
        run: () => work.setView(id, { quarter: !view.quarter }),
      });
    } else if (view.kind !== 'detail' && view.kind !== 'free') {
      found.push({
        name: 'Cut through the middle',
        run: () => interaction.cutMiddle(view),
      });
      found.push({ name: 'Cut open locally', run: () => interaction.outline(id) });
    }
    if (view.kind !== 'pictorial' && view.kind !== 'free')
      found.push({
        name: 'Centre marks and lines',
        run: () => work.act({ act: 'centres', sheet: work.sheetId, views: [id] }),
      });
    found.push({
      name: view.hidden_lines ? 'Leave hidden lines out' : 'Show hidden lines',
      run: () => work.setView(id, { hidden_lines: !view.hidden_lines }),
    });
    const note: Offer = { name: 'Write on this view', run: () => interaction.make(writingOn(id)) };
    if (work.step === 7) found.unshift(note);
    found.push(...pieces(view));
    if (work.step !== 7) found.push(note);
    found.push({
      name: 'Sizes over all',
      run: () => work.act({ act: 'overall_sizes', views: [id], axes: ['x', 'y'] }),
    });
    found.push({ name: 'Pitch circles', run: () => work.act({ act: 'pitch_circles', view: id }) });
    for (const [name, axis] of [
      ['Level line of symmetry', 'x'],
      ['Upright line of symmetry', 'y'],
    ] as const)
      found.push({
        name,
        run: () => work.act({ act: 'draw_line', view: id, form: 'symmetry', axis }),
      });
    if (view.parent && view.kind !== 'detail')
      found.push({
        name: view.tied ? 'Untie from its parent' : 'Tie to its parent',
        run: () => work.setView(id, { tied: !view.tied }),
      });
    if (work.ink?.views.find((v) => v.id === id)?.bent)
      found.push({ name: 'Lay the sheet flat', run: () => interaction.make(layingFlat(id)) });
    if (view.kind === 'principal' && view.flat)
      found.unshift({ name: 'Note its bends', run: () => work.act({ act: 'state_bends', view: id }) });
    if (view.kind !== 'pictorial' && view.kind !== 'free')
      found.push({ name: 'Mirrored: the other hand', run: () => interaction.make(mirroring(id)) });
    found.push({ name: 'Change the look of its marks', run: () => work.editViewLook(id) });
    if (!['section', 'pictorial', 'free'].includes(view.kind ?? ''))
      found.push({ name: 'Its contour as DXF, 1:1', run: () => contour(id) });
    if (view.lined?.length)
      found.push({ name: 'Free it from its line', run: () => work.setView(id, { lined: [] }) });
    found.push({ name: 'Remove the view', run: () => work.remove([id]) });
    return found;
  },
  several: (ids) =>
    ['', ...(work.state?.document.view_styles ?? []).map((s) => s.name)].map((style) => ({
      name: style ? `Look “${style}”` : "The drawing's look",
      run: () =>
        work.together(
          'Give a look to views',
          ids.map((view) => ({ op: 'set_view' as const, view, changes: { style } })),
        ),
    })),
  drag: (target, from) => gestureOfView(target.view, from),
  moved(id, dx, dy) {
    const view = work.view(id);
    return view ? [{ op: 'move_view', view: id, to: [view.place[0] + dx, view.place[1] + dy] }] : [];
  },
};

export default kind;
