import { api, type JobInfo } from '../api/client';
import { notices } from '../lib/notices.svelte';

/** Part files on their way in: uploaded, read, then on the shelf. */
class Bringing {
  jobs = $state<JobInfo[]>([]);

  async bring(files: Iterable<File>, done: (part: string) => void) {
    await Promise.all([...files].map((file) => this.one(file, done)));
  }

  private async one(file: File, done: (part: string) => void) {
    try {
      let job = await api.bring(file);
      this.put(job);
      while (job.state === 'working') {
        await new Promise((r) => setTimeout(r, 250));
        job = await api.job(job.id);
        this.put(job);
      }
      this.jobs = this.jobs.filter((j) => j.id !== job.id);
      if (job.state === 'done' && job.part) done(job.part);
      else if (job.state === 'cancelled')
        notices.say(`${job.name} was not taken in`, 'Reading it was cancelled; nothing of it is kept.');
      else if (job.problem) notices.say(job.problem.title, job.problem.detail ?? '', true);
    } catch (error) {
      notices.refuse(error);
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
