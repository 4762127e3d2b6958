import { api, type JobInfo } from '../api/client';
import { router } from '../lib/router.svelte';
import { notices } from '../lib/notices.svelte';

/** Bytes that go in one request. */
const MOST = 190_000_000;

/** Part files on their way in: uploaded, read, then on the shelf. */
class Bringing {
  jobs = $state<JobInfo[]>([]);

  /** Bring files, all at once: those that name each other are one part; the next revision of a `former` one, where it is named. */
  async bring(files: Iterable<File>, done: (part: string) => void, former = '') {
    const whole = [...files].filter((f) => f.name.toLowerCase().endsWith('.quill'));
    for (const file of whole) await this.drawing(file);
    const all = [...files].filter((f) => !whole.includes(f));
    if (!all.length) return;
    const together = all.reduce((sum, f) => sum + f.size, 0) <= MOST;
    await Promise.all((together ? [all] : all.map((f) => [f])).map((some) => this.some(some, done, former)));
  }

  /** A drawing in one file: it is opened as soon as its parts are read. */
  private async drawing(file: File) {
    const job: JobInfo = {
      id: file.name,
      name: file.name,
      state: 'working',
      share: 0,
      doing: 'taking it in',
    };
    this.put(job);
    try {
      const state = await api.takeContainer(file);
      router.go('drawing', `${state.id}`);
    } catch (error) {
      notices.refuse(error);
    } finally {
      this.jobs = this.jobs.filter((j) => j.id !== job.id);
    }
  }

  private async some(files: File[], done: (part: string) => void, former: string) {
    try {
      const { more, ...first } = await api.bring(files, former);
      await this.followAll([first, ...(more ?? [])], done);
    } catch (error) {
      notices.refuse(error);
    }
  }

  /** Follow readings until they end. */
  async followAll(jobs: JobInfo[], done: (part: string) => void) {
    await Promise.all(jobs.map((job) => this.follow(job, done)));
  }

  private async follow(job: JobInfo, done: (part: string) => void) {
    try {
      if (job.state === 'working') this.put(job);
      while (job.state === 'working') {
        await new Promise((r) => setTimeout(r, 250));
        job = await api.job(job.id);
        this.put(job);
      }
      if (job.state === 'done' && job.part) done(job.part);
      else if (job.state === 'cancelled')
        notices.say(`${job.name} was not taken in`, 'Reading it was cancelled; nothing of it is kept.');
      else if (job.problem) notices.say(job.problem.title, job.problem.detail ?? '', true);
    } catch (error) {
      notices.refuse(error);
    } finally {
      this.jobs = this.jobs.filter((j) => j.id !== job.id);
    }
  }

  private put(job: JobInfo) {
    const at = this.jobs.findIndex((j) => j.id === job.id);
    if (at < 0) this.jobs.push(job);
    else this.jobs[at] = job;
  }

  async cancel(id: string) {
    try {
      this.put(await api.cancelJob(id));
    } catch (error) {
      notices.refuse(error);
    }
  }
}

export const bringing = new Bringing();
