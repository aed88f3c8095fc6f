/** Work that outlives a request, in a queue that PostgreSQL keeps. */
export { addJob, doJobs, type JobName, startJobs } from "./jobs.ts";
