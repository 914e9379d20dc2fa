import { z } from 'zod';
import { intakeReport, job, jobPart, missingPart, PART_STATES } from '../../contract';
import { database } from '../db/client';
import { Refusal } from '../errors';
import { readUpload } from '../files/upload';
import { sha256 } from '../ids';
import { fitAgainJob, fitJob, openFit, openFitAgain, redoFits, redoWish } from '../services/fit-jobs';
import { knownFile, listIntakes, refuseIn, takeIn } from '../services/intake';
import { giveUpMissing, missingParts, newIntake, openIntake, receivePart } from '../services/intake-jobs';
import { endJobIfDone, getJob, listJobs, listParts, steerJob } from '../services/jobs';
import { readForLibrary } from '../services/read-for-library';
import { type Endpoint, endpoint, id, idParams, yes } from './endpoint';

const about = 'Intake and jobs';

export const jobEndpoints: Endpoint[] = [
  endpoint({
    method: 'GET',
    path: '/intake',
    summary: 'Reports of imported files, newest first',
    about,
    need: 'read',
    query: z.object({ job: id.optional() }),
    answer: z.array(intakeReport),
    run: ({ query }) => listIntakes(database(), query.job),
  }),
  endpoint({
    method: 'POST',
    path: '/intake',
    summary: 'Import one file (form field "file", with "skeleton" for formats in two files) and wait for its report',
    about,
    need: 'change',
    query: z.object({ again: yes.optional().describe('Import it even if the same file is in the library') }),
    form: true,
    answer: intakeReport,
    run: async ({ request, person, query }) => {
      const { name, bytes, skeleton } = await readUpload(request, person);
      const origin = { fileName: name, bytes: bytes.length + (skeleton?.length ?? 0), fileHash: sha256(bytes) };
      const same = query.again ? [] : await knownFile(database(), origin.fileHash, person);
      if (same.length > 0)
        return refuseIn(
          database(),
          origin,
          person.id,
          'known',
          `${name}: the same file is already in the library, as ${same[0]!.name}.`,
        );
      try {
        return await readForLibrary(database(), bytes, name, skeleton, (read) =>
          takeIn(database(), read, origin, person.id),
        );
      } catch (error) {
        // a refused file is answered with its report too: the report is the answer, not an error
        if (!(error instanceof Refusal)) throw error;
        return refuseIn(database(), origin, person.id, error.code, error.message);
      }
    },
  }),
  endpoint({
    method: 'POST',
    path: '/jobs/intake',
    summary: 'Start an import of many files; send their bytes one by one afterwards',
    about,
    need: 'change',
    body: newIntake,
    answer: z.object({ id: z.string() }),
    run: ({ person, body }) => openIntake(database(), person, body),
  }),
  endpoint({
    method: 'PUT',
    path: '/jobs/{id}/files/{number}',
    summary: 'Send the bytes of one file of an intake; sending them twice does nothing more',
    about,
    need: 'change',
    params: z.object({ id, number: z.coerce.number().int().min(0) }),
    form: true,
    run: async ({ request, person, params }) =>
      receivePart(database(), person, params.id, params.number, await readUpload(request, person, MOST_UPLOAD)),
  }),
  endpoint({
    method: 'GET',
    path: '/jobs/{id}/missing',
    summary: 'Files of an import that have not arrived yet',
    about,
    need: 'change',
    params: idParams,
    answer: z.array(missingPart),
    run: ({ params }) => missingParts(database(), params.id),
  }),
  endpoint({
    method: 'DELETE',
    path: '/jobs/{id}/missing',
    summary: 'Give up on files that will not arrive',
    about,
    need: 'change',
    params: idParams,
    run: async ({ person, params }) => {
      await giveUpMissing(database(), person, params.id);
      await endJobIfDone(database(), params.id);
    },
  }),
  endpoint({
    method: 'POST',
    path: '/jobs/fit',
    summary: 'Fit items, whole folders or packs onto one or several cast members, as one job',
    about,
    need: 'change',
    body: fitJob,
    answer: z.object({ id: z.string(), parts: z.number().int() }),
    run: ({ person, body }) => openFit(database(), person, body),
  }),
  endpoint({
    method: 'POST',
    path: '/jobs/fit-again',
    summary: 'Make kept fittings again with what sources, characters and maps are now, as one job',
    about,
    need: 'change',
    body: fitAgainJob,
    answer: z.object({ id: z.string(), parts: z.number().int() }),
    run: ({ person, body }) => openFitAgain(database(), person, body),
  }),
  endpoint({
    method: 'POST',
    path: '/jobs/{id}/redo',
    summary: 'Make fittings of a job again with other settings; each result is the next version of its item',
    about,
    need: 'change',
    params: idParams,
    body: redoWish,
    answer: z.object({ again: z.number().int() }),
    run: ({ person, params, body }) => redoFits(database(), person, params.id, body),
  }),
  endpoint({
    method: 'GET',
    path: '/jobs',
    summary: 'Jobs, newest first',
    about,
    need: 'read',
    answer: z.array(job),
    run: () => listJobs(database()),
  }),
  endpoint({
    method: 'GET',
    path: '/jobs/{id}',
    summary: 'One job',
    about,
    need: 'read',
    params: idParams,
    answer: job,
    run: ({ params }) => getJob(database(), params.id),
  }),
  endpoint({
    method: 'GET',
    path: '/jobs/{id}/parts',
    summary: 'Parts of a job with their results',
    about,
    need: 'read',
    params: idParams,
    query: z.object({
      state: z.enum(PART_STATES).optional(),
      offset: z.coerce.number().int().min(0).optional(),
      limit: z.coerce.number().int().min(1).max(5000).optional(),
    }),
    answer: z.array(jobPart),
    run: ({ params, query }) =>
      listParts(database(), params.id, { ...query, states: query.state === undefined ? undefined : [query.state] }),
  }),
  endpoint({
    method: 'POST',
    path: '/jobs/{id}/{what}',
    summary: 'Pause, resume, cancel a job, or retry what it refused',
    about,
    need: 'change',
    params: z.object({ id, what: z.enum(['pause', 'resume', 'cancel', 'retry']) }),
    answer: job,
    run: ({ person, params }) => steerJob(database(), person, params.id, params.what),
  }),
];

/** Archives may be larger than single motions. */
const MOST_UPLOAD = 512 * 2 ** 20;
