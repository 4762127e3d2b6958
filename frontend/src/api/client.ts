import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

type Schemas = components['schemas'];
export type IssueInfo = Schemas['IssueInfo'];
export type PartInfo = Schemas['PartInfo'];
export type PartChanges = Schemas['PartChangesJson'];
export type JobInfo = Schemas['JobInfo'];
export type DrawingInfo = Schemas['DrawingInfo'];
export type DrawingState = Schemas['DrawingState'];
export type LastWays = Schemas['LastWays'];
export type Proposal = Schemas['Proposal'];
export type NewDrawing = Schemas['NewDrawing'];
export type FacePreview = Schemas['FacePreview'];
export type SheetInk = Schemas['SheetInk'];
export type Element = Schemas['ScreenElement'];
export type Mark = NonNullable<Element['marks']>[number];
export type ViewProgress = Schemas['ViewProgress'];
export type ViewJson = Schemas['ViewJson'];
export type FieldJson = Schemas['FieldJson'];
export type Direction = Schemas['Direction'];
export type Material = Schemas['MaterialInfo'];
export type Preview = Schemas['Preview'];
export type Step = Schemas['Step'];
export type ProblemInfo = Schemas['Problem'];
export type Drawing = DrawingState['document'];
export type Sheet = Drawing['sheets'][number];
export type View = NonNullable<Sheet['views']>[number];
export type Annotation = NonNullable<Sheet['annotations']>[number];
export type Dimension = Schemas['Dimension'];
export type SectionView = Extract<View, { kind: 'section' }>;
export type CutAct = Schemas['CutView'];
export type CutPoint = Schemas['CutPoint'];
export type ViewChanges = Schemas['ViewChanges'];
export type AnnotationChanges = Schemas['AnnotationChanges'];
export type HatchChoice = Schemas['HatchChoice'];
export type LocalCut = Schemas['LocalCut'];
export type Template = Schemas['Template'];
export type KeptTemplate = Schemas['KeptTemplate'];
export type KeptWays = Schemas['KeptWays'];
export type Departure = Schemas['Departure'];
export type Comparison = Schemas['ComparisonJson'];
export type SeveralIssued = Schemas['SeveralIssued'];
export type FrameAct = components['schemas']['FrameRequest']['act'];
export type OwnSigns = components['schemas']['OwnSignsJson'];
export type FrameJson = components['schemas']['FrameJson'];
export type Act = Schemas['ActRequest']['act'];
/** A sheet that is shown, with the token of the ink that the screen has of it. */
export type Shown = Schemas['Shown'];
export type Operation = Schemas['DoOperation']['operation'];
export type Point = [number, number];

export const UNITS = ['mm', 'cm', 'm', 'inch'] as const;
export type Unit = (typeof UNITS)[number];

/** What the server refused, and why. */
export class Refusal extends Error {
  constructor(public problem: ProblemInfo) {
    super(problem.detail ? `${problem.title}. ${problem.detail}` : problem.title);
  }
}

const OFFLINE: ProblemInfo = {
  type: 'urn:barequill:offline',
  title: 'The server does not answer',
  status: 0,
  detail: 'See whether it is still running; nothing that was done before is lost.',
};

/** A file as the body of a request. */
function fileBody(file: File) {
  const form = new FormData();
  form.append('file', file, file.name);
  return form;
}

const http = createClient<paths>({
  fetch: async (request: Request) => {
    try {
      return await fetch(request);
    } catch {
      throw new Refusal(OFFLINE);
    }
  },
});

type Answer<T> = { data?: T; error?: ProblemInfo | string; response: Response };

/** What was answered; a refusal is thrown. */
async function told<T>(asked: Promise<Answer<T>>): Promise<T> {
  const { data, error, response } = await asked;
  if (response.ok && data !== undefined) return data;
  if (error && typeof error === 'object') throw new Refusal(error);
  throw new Refusal({ type: '', title: 'The server failed', status: response.status, detail: '' });
}

export const api = {
  parts: (search = '') => told(http.GET('/api/parts', { params: { query: { search } } })),
  part: (key: string) => told(http.GET('/api/parts/{key}', { params: { path: { key } } })),
  changePart: (key: string, body: Schemas['PartChanges']) =>
    told(http.PATCH('/api/parts/{key}', { params: { path: { key } }, body })),
  removePart: (key: string) => told(http.DELETE('/api/parts/{key}', { params: { path: { key } } })),
  faces: (key: string) => told(http.GET('/api/parts/{key}/faces', { params: { path: { key } } })),
  /** A part's mesh and edges, as bytes. */
  shape: (key: string): Promise<ArrayBuffer> =>
    told(
      http.GET('/api/parts/{key}/shape', { params: { path: { key } }, parseAs: 'arrayBuffer' }),
    ) as Promise<unknown> as Promise<ArrayBuffer>,
  materials: () => told(http.GET('/api/materials', {})),
  /** What differs between a part and another revision of it. */
  changes: (key: string, since: string) =>
    told(http.GET('/api/parts/{key}/changes', { params: { path: { key }, query: { since } } })),
  /** Files brought; the first of them as the next revision of a part, where that is named. */
  bring: (files: File[], former = '') =>
    told(
      http.POST('/api/parts', {
        params: { query: { former } },
        body: { file: '' },
        bodySerializer: () => {
          const form = new FormData();
          for (const file of files) form.append('file', file, file.name);
          return form;
        },
      }),
    ),
  /** A drawing taken in from one file, with its parts. */
  takeContainer: (file: File) =>
    told(
      http.POST('/api/containers', {
        body: { file: '' },
        bodySerializer: () => fileBody(file),
      }),
    ),
  demoParts: () => told(http.POST('/api/demo-parts', { body: {} })),
  readAgain: (key: string, unit: Unit) =>
    told(http.POST('/api/parts/{key}/readings', { params: { path: { key } }, body: { unit } })),
  buildAnew: (key: string, values: { [name: string]: number }) =>
    told(http.POST('/api/parts/{key}/sizes', { params: { path: { key } }, body: { values } })),
  printPlan: (id: number, paper: string, sheets: string) =>
    told(http.GET('/api/drawings/{id}/print-plan', { params: { path: { id }, query: { paper, sheets } } })),
  job: (job_id: string) => told(http.GET('/api/jobs/{job_id}', { params: { path: { job_id } } })),
  cancelJob: (job_id: string) => told(http.DELETE('/api/jobs/{job_id}', { params: { path: { job_id } } })),
  drawings: (search = '') => told(http.GET('/api/drawings', { params: { query: { search } } })),
  lastWays: () => told(http.GET('/api/ways')),
  propose: (body: NewDrawing) => told(http.POST('/api/proposals', { body })),
  newDrawing: (body: NewDrawing) => told(http.POST('/api/drawings', { body })),
  drawing: (id: number) => told(http.GET('/api/drawings/{id}', { params: { path: { id } } })),
  /** Asked for where a contour is refused, for the reason. */
  contour: (id: number, view: string) =>
    told(http.GET('/api/drawings/{id}/views/{view}/contour', { params: { path: { id, view } } })),
  fileUnder: (id: number, tags: string[]) =>
    told(http.PUT('/api/drawings/{id}/tags', { params: { path: { id } }, body: { tags } })),
  edit: (id: number) => told(http.GET('/api/drawings/{id}/edit', { params: { path: { id } } })),
  /** Lay a drawing into the basket; `forGood` takes it out of there for ever. */
  removeDrawing: (id: number, forGood = false) =>
    told(
      http.DELETE('/api/drawings/{id}', {
        params: { path: { id }, query: { for_good: forGood ? '1' : '' } },
      }),
    ),
  basket: () => told(http.GET('/api/drawings', { params: { query: { removed: '1' } } })),
  putBack: (id: number) =>
    told(http.POST('/api/drawings/{id}/put-back', { params: { path: { id } }, body: {} })),
  copyDrawing: (id: number, part = '') =>
    told(http.POST('/api/drawings/{id}/copy', { params: { path: { id } }, body: { part } })),
  issues: (id: number) => told(http.GET('/api/drawings/{id}/issues', { params: { path: { id } } })),
  nextIssue: (id: number) => told(http.GET('/api/drawings/{id}/next-issue', { params: { path: { id } } })),
  issueSeveral: (body: Schemas['SeveralRequest']) => told(http.POST('/api/issues', { body })),
  issue: (id: number, body: Schemas['IssueRequest']) =>
    told(http.POST('/api/drawings/{id}/issues', { params: { path: { id } }, body })),
  history: (id: number, before = -1) =>
    told(
      http.GET('/api/drawings/{id}/history', { params: { path: { id }, query: { before: `${before}` } } }),
    ),
  rescue: (id: number) =>
    told(http.POST('/api/drawings/{id}/rescue', { params: { path: { id } }, body: {} })),
  act: (id: number, edit: number, act: Act, shown?: Shown) =>
    told(http.POST('/api/drawings/{id}/acts', { params: { path: { id } }, body: { edit, act, shown } })),
  undo: (id: number, edit: number, shown?: Shown, by = 1) =>
    told(http.POST('/api/drawings/{id}/undo', { params: { path: { id } }, body: { edit, shown, by } })),
  redo: (id: number, edit: number, shown?: Shown, by = 1) =>
    told(http.POST('/api/drawings/{id}/redo', { params: { path: { id } }, body: { edit, shown, by } })),
  preview: (id: number, act: Act) =>
    told(http.POST('/api/drawings/{id}/preview', { params: { path: { id } }, body: { act } })),
  ink: (id: number, sheet: string, since = '', pointing = '') =>
    told(
      http.GET('/api/drawings/{id}/sheets/{sheet}/ink', {
        params: { path: { id, sheet }, query: { since, pointing } },
      }),
    ),
  said: (id: number, size: string) =>
    told(http.GET('/api/drawings/{id}/sizes/{size}', { params: { path: { id, size } } })),
  own: () => told(http.GET('/api/own')),
  keepOwn: (name: string, annotations: Annotation[]) =>
    told(http.POST('/api/own', { body: { name, annotations } })),
  removeOwn: (id: number) => told(http.DELETE('/api/own/{id}', { params: { path: { id } } })),
  templates: () => told(http.GET('/api/templates')),
  keepTemplate: (drawing: number, sheet: string, name: string) =>
    told(http.POST('/api/templates', { body: { drawing, sheet, name } })),
  removeTemplate: (id: number) => told(http.DELETE('/api/templates/{id}', { params: { path: { id } } })),
  bringTemplate: (file: File) =>
    told(http.POST('/api/templates/files', { body: { file: '' }, bodySerializer: () => fileBody(file) })),
  /** The template of a sheet as the text of its file. */
  templateFile: (id: number, sheet: string): Promise<string> =>
    told(
      http.GET('/api/drawings/{id}/template', {
        params: { path: { id }, query: { sheet } },
        parseAs: 'text',
      }),
    ) as Promise<unknown> as Promise<string>,
  keptWays: () => told(http.GET('/api/ways/kept')),
  keepWays: (drawing: number, name: string) => told(http.POST('/api/ways/kept', { body: { drawing, name } })),
  removeWays: (id: number) => told(http.DELETE('/api/ways/kept/{id}', { params: { path: { id } } })),
  bringWays: (file: File) =>
    told(http.POST('/api/ways/files', { body: { file: '' }, bodySerializer: () => fileBody(file) })),
  /** Kept ways as the text of their file. */
  waysFile: (id: number): Promise<string> =>
    told(
      http.GET('/api/ways/kept/{id}/file', { params: { path: { id } }, parseAs: 'text' }),
    ) as Promise<unknown> as Promise<string>,
  comparison: (id: number, before: string, after: string) =>
    told(http.GET('/api/drawings/{id}/comparison', { params: { path: { id }, query: { before, after } } })),
  departures: (id: number) => told(http.GET('/api/drawings/{id}/departures', { params: { path: { id } } })),
  picture: (file: File) =>
    told(http.POST('/api/pictures', { body: { file: '' }, bodySerializer: () => fileBody(file) })),
  frames: (id: number, act: FrameAct) =>
    told(http.POST('/api/drawings/{id}/frames', { params: { path: { id } }, body: { act } })),
  loose: (id: number) => told(http.GET('/api/drawings/{id}/loose', { params: { path: { id } } })),
  features: (id: number, sheet: string) =>
    told(http.GET('/api/drawings/{id}/sheets/{sheet}/features', { params: { path: { id, sheet } } })),
  progress: (id: number, sheet: string) =>
    told(http.GET('/api/drawings/{id}/sheets/{sheet}/progress', { params: { path: { id, sheet } } })),
  projection: (id: number, sheet: string, view: string, act: 'stop' | 'again') =>
    told(
      http.POST('/api/drawings/{id}/sheets/{sheet}/views/{view}/projection', {
        params: { path: { id, sheet, view } },
        body: { act },
      }),
    ),
};

/** The key of the part that a job reads, once it has ended well. */
export async function done(job: JobInfo): Promise<string> {
  while (job.state === 'working') {
    await new Promise((r) => setTimeout(r, 250));
    job = await api.job(job.id);
  }
  if (job.problem) throw new Refusal(job.problem);
  return job.part ?? '';
}
