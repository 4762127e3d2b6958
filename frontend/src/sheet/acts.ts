import { router } from '../lib/router.svelte';
import { interaction } from './interaction.svelte';
import { issue } from './issuing';
import { turningIn } from './making/between';
import { breaking, breakingWhereFree } from './making/break';
import { cropping } from './making/crop';
import { enlarging } from './making/enlarge';
import { layingFlat, mirroring } from './making/derived';
import { liningBetween } from './making/line_between';
import { notingHole } from './making/hole';
import { signActs } from './sign_acts';
import { givingLook } from './making/look';
import { stating } from './making/row.svelte';
import { tidying } from './making/tidy.svelte';
import { putCopied } from './own.svelte';
import { leavingRib } from './making/rib';
import { lookingSquare } from './making/square';
import { needOne, needSelection, needViews, type RouteAct } from './route_act';
import { selected } from './selection.svelte';
import { titling } from './titling.svelte';
import { work } from './work.svelte';

function changeSheet(changes: { angle?: 'first' | 'third'; landscape?: boolean }) {
  return work.act({ act: 'change_sheet', sheet: work.sheetId, ...changes });
}

/** The selected view, where a section can be cut through it. */
function cuttable() {
  const view = work.view(selected.one);
  return view && view.kind !== 'section' && view.kind !== 'pictorial' && view.kind !== 'free'
    ? view
    : undefined;
}

/** A view in which lengths are measured as they lie. */
const flat = (v: { kind: string }) => v.kind === 'principal' || v.kind === 'projected';

/** The selected view of a bent sheet, or the first one. */
const bentView = () => {
  const bent = work.ink?.views.filter((v) => v.bent) ?? [];
  return bent.find((v) => v.id === selected.one) ?? bent[0];
};

/** The selected pictorial view of several bodies, or the first one. */
const pictured = () => {
  const found = work.views.filter(
    (v) => v.kind === 'pictorial' && (work.ink?.views.find((s) => s.id === v.id)?.bodies.length ?? 0) > 1,
  );
  return found.find((v) => v.id === selected.one) ?? found[0];
};

/** The selected flat pattern, or the first one. */
const flatView = () => {
  const laid = work.views.filter((v) => v.kind === 'principal' && v.flat);
  return laid.find((v) => v.id === selected.one) ?? laid[0];
};

function cutMiddle() {
  const view = cuttable();
  if (view) interaction.cutMiddle(view);
}

/** What of the selection can go to another sheet: views, and what stands on the sheet itself. */
const movable = () => selected.ids.filter((id) => work.view(id) ?? work.annotation(id)?.on === work.sheetId);

/** All acts, in the order of the job. */
export const acts: RouteAct[] = [
  {
    step: 1,
    name: 'Open the shelf',
    says: 'All drawings and parts; the drawing is kept as it stands.',
    run: () => router.go(),
  },
  {
    step: 1,
    name: 'Look at the part in space',
    says: 'Turn the part about, see its bodies, and name directions to look from.',
    run: () => router.go('look', work.partKey),
    reason: () => (work.partKey ? '' : 'There is no part yet.'),
  },
  {
    step: 1,
    name: 'Take another revision of the part',
    says: 'Put a newer file in place of the part: views, cuts and sizes go along with what is there still.',
    run: () => (work.revising = work.partKey),
    reason: () => (work.partKey ? '' : 'There is no part yet.'),
  },
  {
    step: 2,
    name: 'First or third angle',
    says: 'Change how projected views stand about the front view; all are laid out anew.',
    run: () => changeSheet({ angle: work.state?.document.angle === 'first' ? 'third' : 'first' }),
  },
  {
    step: 2,
    name: 'Sheet lying or upright',
    says: 'Turn the sheet a quarter; the views are laid out anew.',
    run: () => changeSheet({ landscape: !work.sheet?.landscape }),
  },
  {
    step: 2,
    name: 'Add a sheet',
    says: 'An empty one after this, as large and at the same scale; views can be pulled onto its tag.',
    run: () => work.newSheet(),
  },
  {
    step: 2,
    name: 'Copy this sheet',
    says: 'With all that stands on it; what has a letter gets the next free one.',
    run: () => work.copySheet(),
  },
  {
    step: 2,
    name: 'Remove this sheet',
    says: 'With all that stands on it, and what hangs on that on other sheets.',
    run: () => work.operation({ op: 'remove_sheet', sheet: work.sheetId }),
    reason: () => (work.sheets.length > 1 ? '' : 'A drawing has one sheet at least.'),
  },
  {
    step: 2,
    name: 'Fill in the title',
    says: 'Type the title where it stands in the title block; Tab goes on to the next field.',
    run: () => (work.field = 'title'),
  },
  {
    step: 2,
    name: 'Change the title block',
    says: 'Its cells where they stand: split, joined, moved, what each shows; the border and its zones.',
    run: () => titling.begin(),
  },
  {
    step: 3,
    name: 'Place a set of views',
    says: 'Front, top, left and a pictorial view of the part, at a scale that fits the sheet.',
    run: () => work.act({ act: 'place_set', sheet: work.sheetId, views: ['front', 'top', 'left', 'iso'] }),
    reason: () => (work.views.length ? 'There are views already; pull further ones out of them.' : ''),
  },
  {
    step: 3,
    name: 'Spread the views',
    says: 'Space the views evenly over the sheet, with room for their sizes.',
    key: 'W',
    run: () => work.act({ act: 'spread', sheet: work.sheetId }),
    reason: needViews,
  },
  {
    step: 3,
    name: 'Lay the sheet flat',
    says: 'The flat pattern of a bent sheet as a view: bend lines in their middles, holes where they are to be cut.',
    run: () => interaction.make(layingFlat(bentView()?.id ?? '')),
    reason: () => (bentView() ? '' : 'The part is no bent sheet: one thickness, of flats and round bends.'),
  },
  {
    step: 7,
    name: 'Note the bends',
    says: 'At each bend of a flat pattern which way, by how much and by which radius it is bent.',
    run: () => work.act({ act: 'state_bends', view: flatView()?.id ?? '' }),
    reason: () => (flatView() ? '' : 'There is no flat pattern on this sheet.'),
  },
  {
    step: 3,
    name: 'Pull an assembly apart',
    says: 'An exploded view: bodies go along their axes in the order in which they are taken off; trace lines tell where from.',
    run: () => work.act({ act: 'explode', view: pictured()?.id ?? '' }),
    reason: () => (pictured() ? '' : 'There is no pictorial view of several bodies on this sheet.'),
  },
  {
    step: 3,
    name: 'Mirror a view',
    says: 'A view of the part of the other hand, out of which others can be pulled.',
    run: () => interaction.make(mirroring(cuttable()?.id ?? '')),
    reason: () => (cuttable() ? '' : 'Select a view that is no picture.'),
  },
  {
    step: 3,
    name: 'Make room',
    says: 'What lies on the title block, across the frame or on something else is put where there is room for it.',
    run: () => work.act({ act: 'make_room', sheet: work.sheetId }),
  },
  {
    step: 3,
    name: 'Move to a new sheet',
    says: 'Views as large as they are, with their sizes, and notes that stand free; what belongs together says on which sheet the other stands.',
    run: () => work.sendTo(movable(), ''),
    reason: () => (movable().length ? '' : 'Select a view, or a note that stands on the sheet.'),
  },
  {
    step: 4,
    name: 'Cut along a line',
    says: 'Click the corners of a cutting line across a view, Enter, then set down the section where it is to stand.',
    key: 'X',
    run: () => interaction.cut(''),
    reason: needViews,
  },
  {
    step: 4,
    name: 'Cut a view through its middle',
    says: 'A full section along the level middle of the selected view.',
    run: () => cutMiddle(),
    reason: () => (cuttable() ? '' : 'Select a view that is not cut yet.'),
  },
  {
    step: 4,
    name: 'Cut open locally',
    says: 'Draw a closed outline in a view; within it the part is cut to a depth that you choose.',
    key: 'O',
    run: () => interaction.outline(cuttable()?.id ?? ''),
    reason: needViews,
  },
  {
    step: 4,
    name: 'Leave a rib uncut',
    says: 'Click a rib or web in a section: it is shown whole, without hatch, as the standard wants it.',
    run: () => interaction.make(leavingRib(selected.one)),
    reason: () =>
      work.ink?.views.find((v) => v.id === selected.one)?.hatches.length ? '' : 'Select a section first.',
  },
  {
    step: 4,
    name: 'Take a quarter out of a pictorial view',
    says: 'The quarter next to the viewer is cut away, so that the inside shows.',
    run: () => {
      const view = work.view(selected.one);
      if (view?.kind === 'pictorial') return work.setView(view.id, { quarter: !view.quarter });
    },
    reason: () => (work.view(selected.one)?.kind === 'pictorial' ? '' : 'Select a pictorial view first.'),
  },
  {
    step: 4,
    name: 'Enlarge a place',
    says: 'Press in the middle of a place and pull a ring round it, then set down the detail at a larger scale.',
    key: 'E',
    run: () => interaction.make(enlarging()),
    reason: needViews,
  },
  {
    step: 4,
    name: 'Look square onto an edge',
    says: 'Click a slanted edge; an auxiliary view shows its face in true size.',
    key: 'Q',
    run: () => interaction.make(lookingSquare()),
    reason: needViews,
  },
  {
    step: 4,
    name: 'Take a stretch out of a view',
    says: 'Drag over a stretch of a long view: it is broken there, and its sizes stay true.',
    key: 'B',
    run: () => interaction.make(breaking()),
    reason: needViews,
  },
  {
    step: 4,
    name: 'Break a view where nothing is',
    says: 'Long stretches without anything on them are taken out of the selected view.',
    run: () => interaction.make(breakingWhereFree(selected.one)),
    reason: needOne('view'),
  },
  {
    step: 4,
    name: 'Turn a section in between break lines',
    says: 'Break the selected view and turn its section into the gap.',
    run: () => interaction.make(turningIn(selected.one)),
    reason: needOne('view'),
  },
  {
    step: 4,
    name: 'Crop a view to an outline',
    says: 'Draw an outline; only what lies within it is kept of the view.',
    key: 'K',
    run: () => interaction.make(cropping()),
    reason: needViews,
  },
  {
    step: 4,
    name: 'Close up the letters',
    says: 'Letters of sections and details in order again, without gaps.',
    run: () => work.operation({ op: 'set_letters', close_up: true }),
    reason: () => (work.views.some((v) => v.letter) ? '' : 'No view has a letter yet.'),
  },
  {
    step: 5,
    name: 'All centre marks and lines',
    says: 'Marks on all circles and lines along all axes of the views that show them.',
    key: 'C',
    run: () => work.act({ act: 'centres', sheet: work.sheetId }),
    reason: needViews,
  },
  {
    step: 5,
    name: 'Pitch circles of a view',
    says: 'Circles through holes that lie evenly on one.',
    key: 'P',
    run: () => work.act({ act: 'pitch_circles', view: selected.one }),
    reason: needOne('view'),
  },
  {
    step: 5,
    name: 'Centre line from place to place',
    says: 'Click where it begins and where it ends: points, rims and crossings hold it, elsewhere it stands free.',
    run: () => interaction.make(liningBetween()),
    reason: needViews,
  },
  {
    step: 5,
    name: 'Level line of symmetry',
    says: 'A level line through the middle of the selected view.',
    run: () => work.act({ act: 'draw_line', view: selected.one, form: 'symmetry', axis: 'x' }),
    reason: needOne('view'),
  },
  {
    step: 5,
    name: 'Upright line of symmetry',
    says: 'An upright line through the middle of the selected view.',
    run: () => work.act({ act: 'draw_line', view: selected.one, form: 'symmetry', axis: 'y' }),
    reason: needOne('view'),
  },
  {
    step: 6,
    name: 'A row of sizes',
    says: 'Click places one after another, then beside them: a chain, parallel or running dimensions.',
    key: 'R',
    run: () => interaction.make(stating(selected.targets[0])),
    reason: needViews,
  },
  {
    step: 6,
    name: 'Sizes over all',
    says: 'Length and height of the selected view, or of all views, between their farthest places.',
    run: () =>
      work.act({
        act: 'overall_sizes',
        views: work.view(selected.one) ? [selected.one] : work.views.filter((v) => flat(v)).map((v) => v.id),
        axes: ['x', 'y'],
      }),
    reason: needViews,
  },
  {
    step: 6,
    name: 'Sizes of the recipe',
    says: 'The sizes that the part names itself, each in the view that shows it best, with its tolerance.',
    run: () => work.act({ act: 'state_sizes', sheet: work.sheetId }),
    reason: needViews,
  },
  {
    step: 6,
    name: 'Note a hole',
    says: 'Click a hole, then where its note is to stand: size, depth, counterbore and thread in one.',
    key: 'H',
    run: () => interaction.make(notingHole(selected.targets[0])),
    reason: needViews,
  },
  {
    step: 6,
    name: 'Tidy the sizes',
    says: 'Sizes in rows, shorter ones inside, leaders and text clear of each other; a preview first.',
    key: 'T',
    run: () => interaction.make(tidying(work.view(selected.one) ? [selected.one] : [])),
    reason: () => (work.sizes.length ? '' : 'There are no sizes yet.'),
  },
  {
    step: 6,
    name: 'Choose a fit',
    says: 'Classes that are usual, with their deviations, for the selected size.',
    run: () => (work.fitting = selected.one),
    reason: needOne('dimension'),
  },
  {
    step: 6,
    name: 'Change the look of a size',
    says: 'Lettering, arrows and extension lines, with a live picture; for one, or for all of a style.',
    run: () => work.editLook(selected.one),
    reason: needOne('dimension'),
  },
  {
    step: 6,
    name: 'Give the look of a size to others',
    says: 'Click one size after another: each takes over the look of the selected one.',
    run: () => interaction.make(givingLook(selected.one)),
    reason: needOne('dimension'),
  },
  {
    step: 6,
    name: 'Go through the geometry',
    says: 'The next edge, circle or point of a view by keys, as if the pointer were on it.',
    key: 'N',
    run: () => goThrough(1),
    reason: needViews,
  },
  ...signActs,
  {
    step: 8,
    name: 'Compare with an earlier state',
    says: 'What is new, gone, moved or otherwise since an issue or a step: as a picture and in words.',
    run: () => router.go('compare', work.id),
  },
  {
    step: 8,
    name: 'Issue as a revision',
    says: 'With a letter and what changed; its files are made once and kept as they are. See what was issued before.',
    run: () => issue('revision'),
  },
  {
    step: 8,
    name: 'Issue as PDF',
    says: 'All sheets at true size, with text that can be searched.',
    run: () => issue('pdf'),
  },
  { step: 8, name: 'Issue as SVG', says: 'This sheet as a picture made of lines.', run: () => issue('svg') },
  {
    step: 8,
    name: 'Issue as DXF',
    says: 'This sheet for other drawing programs: lines by layer, dimensions as such.',
    run: () => issue('dxf'),
  },
  { step: 8, name: 'Issue as PNG', says: 'This sheet as a picture made of dots.', run: () => issue('png') },
  {
    step: 8,
    name: 'Issue as a drawing document',
    says: 'The drawing as an open JSON document, with all that it knows.',
    run: () => issue('json'),
  },
];

/** Acts that the finder knows besides: of every drawing, and of what is selected. */
export const moreActs: RouteAct[] = [
  {
    step: 0,
    name: 'Undo',
    says: 'Take back the last act, any number of them, also of former days.',
    key: 'Ctrl Z',
    run: () => work.undo(),
    reason: () => (work.state?.undo ? '' : 'Nothing to undo yet.'),
  },
  {
    step: 0,
    name: 'Redo',
    says: 'Do again what was taken back.',
    key: 'Ctrl Shift Z',
    run: () => work.redo(),
    reason: () => (work.state?.redo ? '' : 'Nothing to redo.'),
  },
  {
    step: 0,
    name: 'Select everything',
    says: 'All views, sizes and marks of the sheet.',
    key: 'Ctrl A',
    run: () => selected.elements(...work.views.map((v) => v.id), ...work.annotations.map((a) => a.id)),
    reason: needViews,
  },
  {
    step: 0,
    name: 'Copy sizes and marks',
    says: 'Keep what is selected, to put it on other views.',
    key: 'Ctrl C',
    run: () => work.copy(false),
    reason: needSelection('sizes or marks'),
  },
  {
    step: 0,
    name: 'Cut sizes and marks',
    says: 'The same, and remove it here.',
    key: 'Ctrl X',
    run: () => work.copy(true),
    reason: needSelection('sizes or marks'),
  },
  {
    step: 0,
    name: 'Put what was copied on a view',
    says: 'On the selected view, where it has the like of what they hung on; signs where you point, in any drawing.',
    key: 'Ctrl V',
    run: () => putCopied(),
    reason: () => (work.copied.length ? '' : 'Copy sizes, marks or signs first.'),
  },
  {
    step: 0,
    name: 'Hidden lines shown or left out',
    says: 'Dashed lines of what lies behind, in the selected view.',
    run: () => work.setView(selected.one, { hidden_lines: !work.view(selected.one)?.hidden_lines }),
    reason: needOne('view'),
  },
  {
    step: 0,
    name: 'Tones of a view, or none',
    says: 'Flat tones of ink under the lines of the selected view, by how it faces the light.',
    run: () => work.setView(selected.one, { shaded: !work.view(selected.one)?.shaded }),
    reason: needOne('view'),
  },
  {
    step: 0,
    name: 'A size as a reference, or no longer',
    says: 'In brackets: it is stated for information, and holds nothing.',
    run: () =>
      work.setAnnotations([selected.one], {
        reference: !work.dimensions.find((d) => d.id === selected.one)?.reference,
      }),
    reason: needOne('dimension'),
  },
  {
    step: 0,
    name: 'Remove what is selected',
    says: 'From the sheet; undo brings it back.',
    key: 'Del',
    run: () => work.remove(),
    reason: needSelection('a view, a size or a mark'),
  },
];

/** Step to the next line or point of the selected view, as if pointed at. */
export function goThrough(by: number) {
  const chosen =
    work.view(selected.one)?.id ??
    selected.targets[0]?.view ??
    (interaction.target?.view || work.views[0]?.id);
  const among =
    (interaction.doing.kind === 'making' && interaction.doing.making.among?.()) || (chosen ? [chosen] : []);
  const all = interaction.fitting(among.flatMap((view) => work.hits?.all(view) ?? []));
  if (!all.length) return;
  const now = all.findIndex((t) => t.ref === interaction.target?.ref && t.at === interaction.target?.at);
  const next = all[(now + by + all.length) % all.length];
  interaction.hover = [next];
  interaction.hoverAt = 0;
  interaction.pointer = [next.x, next.y];
}
