import { interaction } from './interaction.svelte';
import { hanging, linesOf } from './making/hang.svelte';
import { numbering } from './making/item';
import { needOne, needViews, type RouteAct } from './route_act';
import { selected } from './selection.svelte';
import { work } from './work.svelte';

/** The acts of step 7: signs, notes and tables. */
export const signActs: RouteAct[] = [
  {
    step: 7,
    name: 'Tolerance of form or place',
    says: 'Click an outline, a face or a size; type it as one says it, or choose it cell by cell.',
    key: 'G',
    run: () => interaction.make(hanging('frame', selected.targets[0])),
    reason: needViews,
  },
  {
    step: 7,
    name: 'Datum',
    says: 'Click the outline, face or size that is the datum; it gets the next free letter.',
    key: 'J',
    run: () => interaction.make(hanging('datum', selected.targets[0])),
    reason: needViews,
  },
  {
    step: 7,
    name: 'Surface texture',
    says: 'Type a parameter and its value, then click one outline after another; Esc ends.',
    key: 'U',
    run: () => interaction.make(hanging('texture', selected.targets[0])),
    reason: needViews,
  },
  {
    step: 7,
    name: 'Note',
    says: 'Click what it is about, or a free place of the sheet, and write; figures that are pointed at stay true.',
    key: 'I',
    run: () => interaction.make(hanging('note', selected.targets[0])),
  },
  {
    step: 7,
    name: 'Edge of undefined shape',
    says: 'What may be at an edge: + a burr or passing, − an undercut; for one edge, or all round.',
    run: () => interaction.make(hanging('edge_sign', selected.targets[0])),
    reason: needViews,
  },
  {
    step: 7,
    name: 'Weld',
    says: 'Forms, sizes and lengths on both sides of the arrow, as one says them.',
    run: () => interaction.make(hanging('weld', selected.targets[0])),
    reason: needViews,
  },
  {
    step: 7,
    name: 'Datum target',
    says: 'A point or an area by which a datum is taken.',
    run: () => interaction.make(hanging('datum_target', selected.targets[0])),
    reason: needViews,
  },
  {
    step: 7,
    name: 'Centre hole',
    says: 'Its type and sizes by the standard, and whether it may stay.',
    run: () => interaction.make(hanging('centre_hole', selected.targets[0])),
    reason: needViews,
  },
  {
    step: 7,
    name: 'Knurl',
    says: 'Its form and pitch by the standard.',
    run: () => interaction.make(hanging('knurl', selected.targets[0])),
    reason: needViews,
  },
  {
    step: 7,
    name: 'General notes',
    says: 'A numbered block near the title block; write a line for each. Flags on the drawing refer to them.',
    run: () => {
      const block = work.annotations.find((a) => a.kind === 'notes_block');
      const lines = block?.kind === 'notes_block' ? block.notes.map((n) => n.text) : [];
      interaction.make(linesOf('notes', block?.id ?? '', lines.join('\n')));
    },
  },
  {
    step: 7,
    name: 'Propose general notes',
    says: 'What follows from the part and the title block: tolerances, edges, rounds, textures, material.',
    run: () => work.act({ act: 'propose_notes', sheet: work.sheetId }),
  },
  {
    step: 7,
    name: 'General texture',
    says: 'What the title block says, as a sign, with what is stated otherwise in brackets; it follows both.',
    run: () => work.act({ act: 'state_general_texture', sheet: work.sheetId }),
  },
  {
    step: 7,
    name: 'Table',
    says: 'Written line by line: cells parted by | or tabs, or name: value; or pasted from a spreadsheet. Its cells are edited where it stands.',
    run: () =>
      interaction.make(linesOf('table', '', 'Gear\nModule: 2\nTeeth: 24\nPressure angle: 20°\nQuality: 8')),
  },
  {
    step: 7,
    name: 'Table of holes',
    says: 'Of the selected view: letters on the holes, and where each is and how it is made; from a selected corner or centre, else from the lower left.',
    run: () => {
      const t = selected.targets[0];
      const [x, y] = t ? work.up([t.x, t.y]) : [0, 0];
      return work.act({
        act: 'state_list_table',
        sheet: work.sheetId,
        follows: 'holes',
        view: selected.one || t?.view || '',
        origin: t ? { ref: t.ref, at: t.at, x, y } : null,
      });
    },
    reason: () =>
      work.view(selected.one) || selected.targets[0]?.view
        ? ''
        : 'Select a view, or a point of one to count from.',
  },
  {
    step: 7,
    name: 'Parts list',
    says: 'The products of which the part is put together, on the title block; names, materials and remarks can be changed.',
    run: () => work.act({ act: 'list_parts', sheet: work.sheetId, level: 'top', table: true }),
    reason: needViews,
  },
  {
    step: 7,
    name: 'Parts list, all levels',
    says: 'The same with the parts of all sub-assemblies in one list.',
    run: () => work.act({ act: 'list_parts', sheet: work.sheetId, level: 'flat', table: true }),
    reason: needViews,
  },
  {
    step: 7,
    name: 'Number the items',
    says: 'All items that the selected view shows, in lines beside it, their leaders not crossing.',
    run: () => work.act({ act: 'number_items', view: selected.one }),
    reason: needOne('view'),
  },
  {
    step: 7,
    name: 'Item number',
    says: 'Click a body, then where its number is to stand; one after another, Esc ends.',
    key: 'Y',
    run: () => interaction.make(numbering()),
    reason: needViews,
  },
  {
    step: 7,
    name: 'Number anew by the list',
    says: 'Items get their numbers in the order of the parts list.',
    run: () => work.act({ act: 'renumber', view: '' }),
    reason: () => (work.state?.document.items?.length ? '' : 'There are no items yet: list the parts.'),
  },
  {
    step: 7,
    name: 'Number anew around the view',
    says: 'Items get their numbers as they stand about the selected view, clockwise from the upper left.',
    run: () => work.act({ act: 'renumber', view: selected.one }),
    reason: needOne('view'),
  },
  {
    step: 7,
    name: 'Table of bends',
    says: 'Of the selected flat pattern: a number at each bend, and its way, angle, radius and place.',
    run: () =>
      work.act({ act: 'state_list_table', sheet: work.sheetId, follows: 'bends', view: selected.one }),
    reason: needOne('view'),
  },
  {
    step: 7,
    name: 'Table of general tolerances',
    says: 'Of the class that the title block names, as far as the part has such sizes.',
    run: () => work.act({ act: 'state_list_table', sheet: work.sheetId, follows: 'tolerances', view: '' }),
  },
  {
    step: 7,
    name: 'Table of revisions',
    says: 'What was changed when, in the upper right corner of the frame; it grows by itself.',
    run: () => work.act({ act: 'state_list_table', sheet: work.sheetId, follows: 'revisions', view: '' }),
    reason: () => (work.state?.document.revisions?.length ? '' : 'There are no revisions yet.'),
  },
  {
    step: 7,
    name: 'Treated stretch',
    says: 'A wide chain line along an outline that is hardened or coated, with what is done there.',
    run: () => interaction.make(hanging('treated_stretch', selected.targets[0])),
    reason: needViews,
  },
];
