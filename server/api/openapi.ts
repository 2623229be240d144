import { z } from 'zod'
import { BringingInSchema, BroughtInSchema, EditAnswerSchema, EditBatchSchema, HistorySchema, JobSchema, KitEntrySchema, JobSummarySchema, MeshFaultsSchema, PrinterStateSchema, PrintSchema, ProblemSchema, VersionContentSchema, VersionSchema } from '@oak-stilts/core/contract'

const json = (schema: unknown): object => ({ content: { 'application/json': { schema } } })
const ref = (name: string): object => ({ $ref: `#/components/schemas/${name}` })
const version = { name: 'version', in: 'path', required: true, schema: { type: 'string' } }
const id = { name: 'id', in: 'path', required: true, schema: { type: 'string' } }
const MODEL_QUERY = [{ name: 'name', in: 'query', required: true, schema: { type: 'string' }, description: 'Name of the file' }, { name: 'task', in: 'query', schema: { type: 'string' }, description: 'Names the task, so that its progress can be listened to' }]
const problems = { default: { description: 'A problem document (RFC 9457)', content: { 'application/problem+json': { schema: ref('Problem') } } } }

/** The contract as an OpenAPI 3.1 document, made from the Zod definitions. */
export function openApiDocument(): object {
  const schemas = Object.fromEntries(Object.entries({ Job: JobSchema, JobSummary: JobSummarySchema, BroughtIn: BroughtInSchema, BringingIn: BringingInSchema, History: HistorySchema, KitEntry: KitEntrySchema, MeshFaults: MeshFaultsSchema, EditBatch: EditBatchSchema, EditAnswer: EditAnswerSchema, Version: VersionSchema, VersionContent: VersionContentSchema, Print: PrintSchema, PrinterState: PrinterStateSchema, Problem: ProblemSchema })
    .map(([name, schema]) => [name, z.toJSONSchema(schema, { io: 'output' })]))
  return {
    openapi: '3.1.0',
    info: { title: 'Oak Stilts', version: '1', description: 'Jobs of resin-printed parts and their stilts. Lengths in mm, angles in degrees; z up. Anchors are in the coordinates of the source of a part, nodes in its stand (tilted, lifted, its middle over the origin), copies say where that stands on the plate.' },
    paths: {
      '/api/jobs': {
        get: { summary: 'All jobs', responses: { 200: { description: 'Jobs, oldest first', ...json({ type: 'array', items: ref('JobSummary') }) }, ...problems } },
        post: {
          summary: 'Bring in a model file (STL, OBJ, PLY, 3MF), or a whole job that was written as 3MF, as a new job', parameters: MODEL_QUERY,
          requestBody: { content: { 'application/octet-stream': { schema: { type: 'string', format: 'binary' } } } },
          responses: { 201: { description: 'The new job', ...json(ref('Job')) }, ...problems },
        },
      },
      '/api/jobs/{id}': {
        get: { summary: 'One job with its plan', parameters: [id], responses: { 200: { description: 'The job', ...json(ref('Job')) }, ...problems } },
        delete: { summary: 'Delete a job; for a day it can be brought back', parameters: [id], responses: { 204: { description: 'Deleted' }, ...problems } },
      },
      '/api/jobs/deleted': { get: { summary: 'Jobs that were deleted and can be brought back', responses: { 200: { description: 'Jobs, oldest first', ...json({ type: 'array', items: ref('JobSummary') }) }, ...problems } } },
      '/api/jobs/{id}/restore': { post: { summary: 'Bring back a job that was deleted within a day', parameters: [id], responses: { 204: { description: 'Brought back' }, ...problems } } },
      '/api/jobs/{id}/archived': { put: { summary: 'Put a job away, or back among the others', parameters: [id], requestBody: json({ type: 'object', properties: { archived: { type: 'boolean' } }, required: ['archived'] }), responses: { 204: { description: 'Done' }, ...problems } } },
      '/api/jobs/{id}/file': { get: { summary: 'The whole job as one 3MF package, to be brought in again', parameters: [id], responses: { 200: { description: '3MF', content: { 'model/3mf': { schema: { type: 'string', format: 'binary' } } } }, ...problems } } },
      '/api/jobs/{id}/versions': {
        get: { summary: 'Named states of a job', parameters: [id], responses: { 200: { description: 'Versions, newest first', ...json({ type: 'array', items: ref('Version') }) }, ...problems } },
        post: { summary: 'Keep a job as it is now under a name', parameters: [id], requestBody: json({ type: 'object', properties: { name: { type: 'string' } }, required: ['name'] }), responses: { 201: { description: 'The version', ...json(ref('Version')) }, ...problems } },
      },
      '/api/jobs/{id}/versions/{version}': {
        get: { summary: 'All that a version holds', parameters: [id, version], responses: { 200: { description: 'Fields and rows', ...json(ref('VersionContent')) }, ...problems } },
        delete: { summary: 'Delete a version', parameters: [id, version], responses: { 204: { description: 'Deleted' }, ...problems } },
      },
      '/api/jobs/{id}/edits': {
        post: { summary: 'Apply edits; refused with 409 where the base revision is not the stored one', parameters: [id], requestBody: json(ref('EditBatch')), responses: { 200: { description: 'The new revision', ...json(ref('EditAnswer')) }, ...problems } },
      },
      '/api/jobs/{id}/copy': {
        post: { summary: 'Copy a job under a new name', parameters: [id], requestBody: json({ type: 'object', properties: { name: { type: 'string' } }, required: ['name'] }), responses: { 201: { description: 'The copy', ...json(ref('Job')) }, ...problems } },
      },
      '/api/jobs/{id}/history': { get: { summary: 'The steps that can be undone and done again', parameters: [id], responses: { 200: { description: 'Steps, oldest first', ...json(ref('History')) }, ...problems } } },
      '/api/jobs/{id}/parts': {
        post: {
          summary: 'Bring in a model file for a job that is there; what it holds becomes parts of it once an edit puts them', parameters: [id, ...MODEL_QUERY],
          requestBody: { content: { 'application/octet-stream': { schema: { type: 'string', format: 'binary' } } } },
          responses: { 201: { description: 'What to put', ...json({ type: 'array', items: ref('BroughtIn') }) }, ...problems },
        },
      },
      '/api/tasks/{name}': { get: { summary: 'How far a task has come, as server-sent events', parameters: [{ name: 'name', in: 'path', required: true, schema: { type: 'string' } }], responses: { 200: { description: 'Events with stage and share', content: { 'text/event-stream': { schema: ref('BringingIn') } } }, ...problems } } },
      '/api/prints': { get: { summary: 'The print log', parameters: [{ name: 'job', in: 'query', schema: { type: 'string' }, description: 'Only prints of this job' }], responses: { 200: { description: 'Prints, newest first', ...json({ type: 'array', items: ref('Print') }) }, ...problems } } },
      '/api/prints/{id}': {
        put: { summary: 'Keep a print in the log, or what became of it', parameters: [id], requestBody: json(ref('Print')), responses: { 204: { description: 'Kept' }, ...problems } },
        delete: { summary: 'Take a print out of the log', parameters: [id], responses: { 204: { description: 'Taken out' }, ...problems } },
      },
      '/api/prints/{id}/photo': {
        get: { summary: 'The photograph of a print', parameters: [id], responses: { 200: { description: 'JPEG, PNG or WebP', content: { 'image/*': { schema: { type: 'string', format: 'binary' } } } }, ...problems } },
        put: { summary: 'Keep a photograph of a print', parameters: [id], requestBody: { content: { 'image/*': { schema: { type: 'string', format: 'binary' } } } }, responses: { 200: { description: 'Its hash', ...json({ type: 'object', properties: { photo: { type: 'string' } } }) }, ...problems } },
      },
      '/api/printers': { get: { summary: 'Printers that answer', responses: { 200: { description: 'What each does', ...json({ type: 'array', items: ref('PrinterState') }) }, ...problems } } },
      '/api/printers/simulated': { post: { summary: 'Start the simulated printers that ship with this', responses: { 200: { description: 'Printers that answer', ...json({ type: 'array', items: ref('PrinterState') }) }, ...problems } } },
      '/api/kit': {
        get: { summary: 'The own printers and resins', responses: { 200: { description: 'Entries, oldest first', ...json({ type: 'array', items: ref('KitEntry') }) }, ...problems } },
        put: { summary: 'Put entries, replacing those of the same id', requestBody: json({ type: 'array', items: ref('KitEntry') }), responses: { 204: { description: 'Stored' }, ...problems } },
      },
      '/api/kit/{id}': { delete: { summary: 'Delete an entry', parameters: [id], responses: { 204: { description: 'Deleted' }, ...problems } } },
      '/api/meshes/{hash}': { get: { summary: 'A prepared mesh: four 32-bit numbers (mark, version, vertices, triangles), positions, triangles; little-endian', parameters: [{ name: 'hash', in: 'path', required: true, schema: { type: 'string' } }], responses: { 200: { description: 'Bytes' }, ...problems } } },
      '/api/faults/{hash}': { get: { summary: 'What was found in a mesh as it came, and where', parameters: [{ name: 'hash', in: 'path', required: true, schema: { type: 'string' } }], responses: { 200: { description: 'Faults', ...json(ref('MeshFaults')) }, ...problems } } },
      '/api/jobs/{id}/picture': {
        get: { summary: 'A picture of the job', parameters: [id], responses: { 200: { description: 'PNG' }, ...problems } },
        put: { summary: 'Store a new picture', parameters: [id], requestBody: { content: { 'image/png': { schema: { type: 'string', format: 'binary' } } } }, responses: { 204: { description: 'Stored' }, ...problems } },
      },
    },
    components: { schemas },
  }
}
