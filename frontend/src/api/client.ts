import type { components } from './schema';

type Schemas = components['schemas'];
export type PartInfo = Schemas['PartInfo'];
export type JobInfo = Schemas['JobInfo'];
export type DrawingInfo = Schemas['DrawingInfo'];
export type DrawingState = Schemas['DrawingState'];
export type Proposal = Schemas['Proposal'];
export type NewDrawing = Partial<Schemas['NewDrawing']> & { part: string };
export type FacePreview = Schemas['FacePreview'];
export type SheetInk = Schemas['SheetInk'];
export type Mark = Partial<Schemas['MarkJson']> & { m: 's' | 'f' | 'i' | 't' | 'u'; o: string };
export type ViewProgress = Schemas['ViewProgress'];
export type ViewJson = Schemas['ViewJson'];
export type FieldJson = Schemas['FieldJson'];
export type Snap = Schemas['SnapJson'];
export type Material = Schemas['MaterialInfo'];
export type Preview = Schemas['Preview'];
export type ProblemInfo = Schemas['Problem'];
export type Drawing = DrawingState['document'];
export type Sheet = NonNullable<Drawing['sheets']>[number];
export type View = NonNullable<Sheet['views']>[number];
export type Annotation = NonNullable<Sheet['annotations']>[number];
export type Dimension = Extract<Annotation, { kind?: 'dimension' }>;
/** An act as the server takes it; `act` tells which. */
export type Act = { act: string } & Record<string, unknown>;

export const UNITS = ['mm', 'cm', 'm', 'inch'] as const;
export type Unit = (typeof UNITS)[number];

/** What the server refused, and why. */
export class Refusal extends Error {
  constructor(public problem: ProblemInfo) {
    super(problem.detail ? `${problem.title}. ${problem.detail}` : problem.title);
  }
}

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      headers:
        body !== undefined && !(body instanceof FormData) ? { 'Content-Type': 'application/json' } : {},
      body: body === undefined ? undefined : body instanceof FormData ? body : JSON.stringify(body),
    });
  } catch {
    throw new Refusal({
      type: 'urn:barequill:offline',
      title: 'The server does not answer',
      status: 0,
      detail: 'See whether it is still running; nothing that was done before is lost.',
    });
  }
  if (!response.ok) {
    let problem: ProblemInfo = { type: '', title: 'The server failed', status: response.status, detail: '' };
    try {
      problem = (await response.json()) as ProblemInfo;
    } catch {
      /* not JSON: keep the plain words */
    }
    throw new Refusal(problem);
  }
  return (await response.json()) as T;
}

export const api = {
  parts: (search = '') => call<PartInfo[]>('GET', `/parts?search=${encodeURIComponent(search)}`),
  part: (key: string) => call<PartInfo>('GET', `/parts/${key}`),
  changePart: (key: string, changes: object) => call<PartInfo>('PATCH', `/parts/${key}`, changes),
  removePart: (key: string) => call<object>('DELETE', `/parts/${key}`),
  faces: (key: string) => call<FacePreview[]>('GET', `/parts/${key}/faces`),
  materials: () => call<Material[]>('GET', '/materials'),
  bring: (file: File) => {
    const form = new FormData();
    form.append('file', file, file.name);
    return call<JobInfo>('POST', '/parts', form);
  },
  readAgain: (key: string, unit: Unit) => call<JobInfo>('POST', `/parts/${key}/readings`, { unit }),
  job: (id: string) => call<JobInfo>('GET', `/jobs/${id}`),
  cancelJob: (id: string) => call<JobInfo>('DELETE', `/jobs/${id}`),
  drawings: (search = '') => call<DrawingInfo[]>('GET', `/drawings?search=${encodeURIComponent(search)}`),
  propose: (wish: NewDrawing) => call<Proposal>('POST', '/proposals', wish),
  newDrawing: (wish: NewDrawing) => call<DrawingState>('POST', '/drawings', wish),
  drawing: (id: number) => call<DrawingState>('GET', `/drawings/${id}`),
  removeDrawing: (id: number) => call<object>('DELETE', `/drawings/${id}`),
  act: (id: number, revision: number, act: Act) =>
    call<DrawingState>('POST', `/drawings/${id}/acts`, { revision, act }),
  undo: (id: number, revision: number) => call<DrawingState>('POST', `/drawings/${id}/undo`, { revision }),
  redo: (id: number, revision: number) => call<DrawingState>('POST', `/drawings/${id}/redo`, { revision }),
  preview: (id: number, act: Act) => call<Preview>('POST', `/drawings/${id}/preview`, { act }),
  ink: (id: number, sheet: string) => call<SheetInk>('GET', `/drawings/${id}/sheets/${sheet}/ink`),
  progress: (id: number, sheet: string) =>
    call<ViewProgress[]>('GET', `/drawings/${id}/sheets/${sheet}/progress`),
  projection: (id: number, sheet: string, view: string, act: 'stop' | 'again') =>
    call<object>('POST', `/drawings/${id}/sheets/${sheet}/views/${view}/projection`, { act }),
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
