import { beforeEach, describe, expect, it, vi } from 'vitest';

/** The server as the screen meets it: what it is asked for, and what it is told to answer. */
const asked = vi.hoisted(() => ({
  acts: [] as { edit: number; act: { name: string }; since?: string }[],
  answers: [] as unknown[],
  inks: [] as string[],
  ink: {} as unknown,
  reloaded: 0,
  state: {} as unknown,
}));

vi.mock('../api/client', async (original) => {
  class Refusal extends Error {
    constructor(public problem: { status: number; title: string; detail: string }) {
      super(problem.title);
    }
  }
  return {
    ...(await original<object>()),
    Refusal,
    api: {
      drawing: () => Promise.resolve(((asked.reloaded += 1), asked.state)),
      ink: (_id: number, _sheet: string, since?: string) => (
        asked.inks.push(since ?? ''),
        Promise.resolve(structuredClone(asked.ink))
      ),
      part: () => Promise.resolve({ directions: [] }),
      materials: () => Promise.resolve([]),
      progress: () => Promise.resolve([]),
      act: async (_id: number, edit: number, act: { name: string }, shown?: { since: string }) => {
        asked.acts.push({ edit, act, since: shown?.since });
        await new Promise((done) => setTimeout(done, act.name === 'slow' ? 30 : 1));
        const answer = asked.answers.shift();
        if (typeof answer === 'number') throw new Refusal({ status: answer, title: 'Refused', detail: '' });
        return structuredClone(answer);
      },
      undo: async (_id: number, edit: number) => {
        asked.acts.push({ edit, act: { name: 'undo' } });
        return structuredClone(asked.answers.shift());
      },
    },
  };
});

const { work } = await import('./work.svelte');

const element = (id: string, group: string, x: number, marks: unknown, key = `${id}-key`) => ({
  id,
  kind: id === group ? 'view' : 'stamp',
  group,
  view: id === group ? id : '',
  words: id,
  key,
  x,
  y: 0,
  marks,
});
const STROKE = [{ m: 's', pen: 'visible', w: 0.5, d: 'M 0 0 L 10 0' }];
const inkOf = (token: string, order: string[], elements: unknown[]) => ({
  token,
  width: 420,
  height: 297,
  scale_text: '1:1',
  order,
  elements,
  fields: [],
  views: [],
  remarks: [],
});
const stateOf = (edit: number, ink: unknown = null, undo: string | null = 'a step') => ({
  id: 1,
  edit,
  undo,
  redo: null,
  ink,
  document: {
    sheets: [{ id: 's1', views: [{ id: 'v1', part: '' }], annotations: [{ id: 'a1' }] }],
    parts: [],
  },
});
const act = (name: string) => work.act({ name } as never);
const shown = () => Object.fromEntries(work.ink!.elements.map((e) => [e.id, [e.x, e.marks?.length]]));

beforeEach(async () => {
  Object.assign(asked, { acts: [], answers: [], inks: [], reloaded: 0 });
  asked.ink = inkOf('t1', ['v1', 'a1'], [element('v1', 'v1', 100, STROKE), element('a1', 'v1', 100, STROKE)]);
  asked.state = stateOf(1);
  await work.open(1);
  asked.inks = [];
  asked.reloaded = 0;
});

describe('what the server tells beside what the screen has', () => {
  it('keeps the ink of what only moved, and takes along what stood at its view', async () => {
    asked.answers = [stateOf(2, inkOf('t2', ['v1', 'a1'], [element('v1', 'v1', 130, null)]))];
    await act('move');
    expect(shown()).toEqual({ v1: [130, 1], a1: [130, 1] });
    expect(asked.inks).toEqual([]);
    expect(asked.acts[0].since).toBe('t1');
  });

  it('does not take along what stands at a place of its own', async () => {
    asked.ink = inkOf(
      't1',
      ['v1', 'a1'],
      [element('v1', 'v1', 100, STROKE), element('a1', 'v1', 107, STROKE)],
    );
    await work.open(1);
    asked.answers = [stateOf(2, inkOf('t2', ['v1', 'a1'], [element('v1', 'v1', 130, null)]))];
    await act('move');
    expect(shown()).toEqual({ v1: [130, 1], a1: [107, 1] });
  });

  it('finds ink by its key where another element has it now', async () => {
    asked.answers = [
      stateOf(
        2,
        inkOf('t2', ['v1', 'b7'], [element('v1', 'v1', 100, null), element('b7', 'v1', 5, null, 'a1-key')]),
      ),
    ];
    await act('copy');
    expect(shown()).toEqual({ v1: [100, 1], b7: [5, 1] });
  });

  it('asks for all of it where something is neither there nor told', async () => {
    asked.answers = [stateOf(2, inkOf('t2', ['v1', 'new'], [element('v1', 'v1', 100, null)]))];
    asked.ink = inkOf(
      't3',
      ['v1', 'new'],
      [element('v1', 'v1', 100, STROKE), element('new', 'v1', 1, STROKE)],
    );
    await act('add');
    expect(shown()).toEqual({ v1: [100, 1], new: [1, 1] });
    expect(asked.inks).toEqual(['']);
  });

  it('shows the sheet that stands in the place of one that is gone', async () => {
    const gone = stateOf(2);
    gone.document.sheets[0].id = 's9';
    asked.answers = [gone];
    await act('remove');
    expect(work.sheetId).toBe('s9');
  });
});

describe('changes', () => {
  it('go one after the other, each on what the one before left, and none is dropped', async () => {
    asked.answers = [2, 3, 4].map((edit) => stateOf(edit));
    const done = [act('slow'), act('quick'), act('quick')];
    expect(work.busy).toBe('working');
    await Promise.all(done);
    expect(asked.acts.map((a) => [a.act.name, a.edit])).toEqual([
      ['slow', 1],
      ['quick', 2],
      ['quick', 3],
    ]);
    expect(work.state!.edit).toBe(4);
    await Promise.resolve();
    expect(work.busy).toBe('');
  });

  it('that are refused leave the sheet as it is, and the next is still done', async () => {
    asked.answers = [422, stateOf(2)];
    const [first, second] = await Promise.all([act('wrong'), act('right')]);
    expect(first).toBeNull();
    expect(second!.edit).toBe(2);
    expect(asked.acts.map((a) => a.edit)).toEqual([1, 1]);
    expect(asked.reloaded).toBe(0);
  });

  it('of somebody else are shown, and ours is done on top of them', async () => {
    asked.answers = [409, stateOf(8)];
    asked.state = stateOf(7);
    await Promise.all([act('late'), act('then')]);
    expect(asked.reloaded).toBe(1);
    expect(asked.acts.map((a) => a.edit)).toEqual([1, 7, 8]);
  });

  it('are undone only where there is something left to undo when its turn comes', async () => {
    asked.answers = [stateOf(2, null, null)];
    await Promise.all([work.undo(), work.undo()]);
    expect(asked.acts.filter((a) => a.act.name === 'undo').length).toBe(1);
  });
});
