import { Fault, get, type JobView } from '../api/client';

const EVERY = 250;
const pause = () => new Promise((go) => setTimeout(go, EVERY));

/** A piece of work watched to its end; it throws what went wrong, and gives the job where it was done or stopped. */
export async function watched(job: JobView, see: (job: JobView) => void): Promise<JobView> {
  let now = job;
  while (now.state === 'working') {
    see(now);
    await pause();
    now = await get(`/jobs/${now.id}`);
  }
  if (now.state === 'failed') throw new Fault(now.message);
  return now;
}
