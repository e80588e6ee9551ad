/** The states of a job, as it goes through them. */
export const JOB_STATES = [
  "waiting",
  "sent",
  "in work",
  "failed",
  "returned",
  "accepted",
  "cancelled",
] as const;
interface WithState {
  state: string;
}

/** Whether a job is on its way back. */
export const isMoving = (job: WithState): boolean => ["waiting", "sent", "in work"].includes(job.state);
/** Whether somebody has something of it to translate yet. */
export const isToTranslate = (job: WithState): boolean => isMoving(job) || job.state === "failed";
/** Whether nothing is left to do. */
export const isClosed = (job: WithState): boolean => ["accepted", "cancelled"].includes(job.state);
