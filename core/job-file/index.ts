/** A whole job as one open file: a 3MF package that any reader shows, with the job itself attached. */
export { writeJobFile, type JobToWrite } from './write-job'
export { readJobFile, type FoundJob } from './read-job'
