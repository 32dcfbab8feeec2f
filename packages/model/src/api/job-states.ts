/** States of jobs, apart from the schemas: the board of all jobs needs nothing else. */

/** How far a job is, in the order it goes through. */
export const JOB_STATES = ['todo', 'working', 'ready', 'done'] as const;
