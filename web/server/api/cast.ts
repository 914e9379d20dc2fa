import { type JointMarks, KEY_CURVES, MARKED_JOINTS, STAND_IN_HEIGHT } from '@velvet-reel/motion';
import { z } from 'zod';
import {
  assets,
  castFitting,
  castMember,
  destination,
  engineCondition,
  exportWish,
  fittingDocument,
  item,
  poseFieldDocument,
  profile,
  rig,
  savedMap,
} from '../../contract';
import { rigSlots } from '../../documents/rig-setup-schema';
import { asEdits, fitEdits, fitSettings } from '../../wishes/settings';
import { database } from '../db/client';
import { Refusal } from '../errors';
import { readUpload } from '../files/upload';
import { download, immutable } from '../http';
import { noteAudit } from '../services/audit';
import { batch } from '../services/batches';
import { addCast, castRig, changeCast, copyCast, drawnRig, fileBytes, getCast, listCast } from '../services/cast';
import { addDrawings, changeCutout, keepDrawings, markCutout } from '../services/cutouts';
import { keepDestination, listDestinations, removeDestination } from '../services/destinations';
import { getFitting, saveFitting, writeFitting } from '../services/fitting-documents';
import { conditionsOf, exportCharacter } from '../services/fittings';
import { fittingsOf } from '../services/freshness';
import { getField, writeField } from '../services/pose-fields';
import { addProfile, applyProfile, listProfiles, removeProfile, restoreProfile } from '../services/profiles';
import { replaceFile, respaceCast, weighReplacement } from '../services/replacement';
import { getRig, saveMap, writeRigSetup } from '../services/rigs';
import { addStandIn } from '../services/stand-ins';
import { readInThread } from '../threads/pool';
import { type Endpoint, endpoint, hashParams, id, idParams, yes } from './endpoint';

const about = 'Cast';
const name = z.string().trim().min(1, 'enter a name').max(200);
const lengths = z.array(z.number().min(0).max(100)).max(4096);
const castFigure = z.object({
  rigId: id,
  assets,
  floorM: z.number().nullable(),
  skin: z.object({ around: lengths, ahead: lengths }).nullable().optional(),
  heightM: z.number().positive(),
  vertexCount: z.number().int().min(0),
});
const pictured = z.tuple([z.number().min(-1e6).max(1e6), z.number().min(-1e6).max(1e6)]);
const partName = z.string().min(1).max(300);
const cutoutChange = z
  .object({
    pivots: z.record(partName, pictured).describe('By joint: where it lies in the picture'),
    order: z.array(partName).max(1000).describe('All parts, the hindmost first'),
    hinges: z.record(partName, z.object({ swing: z.number().min(0).max(1).optional(), level: z.boolean().optional() })),
    hang: z.record(partName, partName).describe('By part: the joint that it hangs on'),
    facing: z.enum(['front', 'left', 'right']),
    mirrored: z.boolean(),
  })
  .partial();
const pair = z.object({ id, item: id });

export const castEndpoints: Endpoint[] = [
  endpoint({
    method: 'GET',
    path: '/cast',
    summary: 'All cast members',
    about,
    need: 'read',
    query: z.object({ bin: yes.optional() }),
    answer: z.array(castMember),
    run: ({ query }) => listCast(database(), query.bin),
  }),
  endpoint({
    method: 'POST',
    path: '/cast',
    summary: 'Make a skeleton without a mesh, for example a take’s, a cast member',
    about,
    need: 'change',
    body: z.object({ rigId: id, name }),
    run: async ({ person, body }) => {
      const rig = await getRig(database(), body.rigId);
      return addCast(database(), {
        name: body.name,
        rigId: body.rigId,
        heightM: rig.heightM,
        figure: null,
        personId: person.id,
      });
    },
  }),
  endpoint({
    method: 'POST',
    path: '/cast/stand-in',
    summary: 'Add a body with average proportions to the cast',
    about,
    need: 'change',
    body: z.object({
      name,
      rest: z.enum(['T', 'A']),
      heightM: z.number().min(STAND_IN_HEIGHT.low).max(STAND_IN_HEIGHT.high).default(STAND_IN_HEIGHT.usual),
    }),
    answer: castMember,
    run: ({ person, body }) => addStandIn(database(), person, body),
  }),
  endpoint({
    method: 'GET',
    path: '/cast/{id}',
    summary: 'One cast member',
    about,
    need: 'read',
    params: idParams,
    answer: castMember,
    run: ({ params }) => getCast(database(), params.id),
  }),
  endpoint({
    method: 'PATCH',
    path: '/cast/{id}',
    summary: 'Rename, describe or delete a cast member',
    about,
    need: 'change',
    params: idParams,
    body: z.object({ name, note: z.string().max(4000), binned: z.boolean(), figure: castFigure }).partial(),
    run: ({ person, params, body }) => changeCast(database(), person, params.id, body),
  }),
  endpoint({
    method: 'POST',
    path: '/cast/{id}/export',
    summary: 'A character as one GLB, with items on its skeleton as animations in it',
    about,
    need: 'read',
    heavy: true,
    params: idParams,
    body: z.object({
      itemIds: z.array(id).max(500).default([]),
      mesh: z.boolean().default(true),
      vrm: z.boolean().default(false).describe('As VRM 1.0: the figure alone, with its humanoid bones named'),
      keys: z.number().min(0).max(100).nullable().default(null).describe('Keys are left out within this, millimetres'),
      curves: z.enum(KEY_CURVES).default('straight').describe('What runs between keys where some are left out'),
    }),
    file: 'model/gltf-binary',
    run: async ({ person, params, body }) => {
      const file = await exportCharacter(database(), params.id, {
        itemIds: body.itemIds,
        mesh: body.mesh,
        vrm: body.vrm,
        keyTolerance: body.keys === null ? null : body.keys / 1000,
        keyCurves: body.curves,
      });
      await noteAudit(database(), person.id, 'exported', file.name);
      return download(file.bytes, file.name, 'model/gltf-binary');
    },
  }),
  endpoint({
    method: 'GET',
    path: '/cast/{id}/field',
    summary: 'The field of poses of a cast member',
    about,
    need: 'read',
    params: idParams,
    answer: poseFieldDocument,
    run: ({ params }) => getField(database(), params.id),
  }),
  endpoint({
    method: 'PATCH',
    path: '/cast/{id}/field',
    summary: 'Pin poses on the field of a cast member, move them or take them off (cells pin/ITEM)',
    about,
    need: 'change',
    params: idParams,
    body: batch,
    answer: poseFieldDocument,
    run: ({ person, params, body }) => writeField(database(), person, params.id, body),
  }),
  endpoint({
    method: 'GET',
    path: '/cast/{id}/conditions',
    summary: 'What game engines usually ask of a character, and whether this one meets it',
    about,
    need: 'read',
    params: idParams,
    answer: z.array(engineCondition),
    run: ({ params }) => conditionsOf(database(), params.id),
  }),
  endpoint({
    method: 'GET',
    path: '/cast/{id}/rig',
    summary: 'The rig of a cast member with its body map',
    about,
    need: 'read',
    params: idParams,
    answer: rig,
    run: ({ params }) => castRig(database(), params.id),
  }),
  endpoint({
    method: 'GET',
    path: '/rigs/{id}',
    summary: 'A rig with its body map',
    about,
    need: 'read',
    params: idParams,
    answer: rig,
    run: ({ params }) => drawnRig(database(), params.id),
  }),
  endpoint({
    method: 'PUT',
    path: '/rigs/{id}/map',
    summary: 'Store a corrected body map',
    about,
    need: 'change',
    params: idParams,
    body: z.object({
      map: z.object({ slots: rigSlots }),
      version: z.number().int().positive(),
    }),
    answer: savedMap,
    run: ({ person, params, body }) => saveMap(database(), params.id, body.map, body.version, person.id),
  }),
  endpoint({
    method: 'PATCH',
    path: '/rigs/{id}',
    summary:
      'Write parts of what is set for a rig: slots of its body map, pose for matching, joint limits, pairs, joint sets',
    about,
    need: 'change',
    params: idParams,
    body: batch,
    answer: rig,
    run: ({ person, params, body }) => writeRigSetup(database(), person.id, params.id, body),
  }),
  endpoint({
    method: 'POST',
    path: '/cast/{id}/copy',
    summary: 'A full copy of a cast member; changing it leaves the original alone',
    about,
    need: 'change',
    params: idParams,
    body: z.object({ name }),
    answer: castMember,
    run: ({ person, params, body }) => copyCast(database(), person, params.id, body.name),
  }),
  endpoint({
    method: 'POST',
    path: '/cast/{id}/replacement',
    summary: 'Replace a cast member’s file (form field "file"), or only report what that would change (check=1)',
    about,
    need: 'change',
    heavy: true,
    params: idParams,
    query: z.object({ check: yes.optional() }),
    form: true,
    run: async ({ request, person, params, query }) => {
      const { name: fileName, bytes, skeleton } = await readUpload(request, person);
      const read = await readInThread(bytes, fileName, skeleton);
      if (read.rig.joints.length === 0) throw new Refusal(422, 'no-joints', `${fileName} has no skeleton.`);
      return query.check
        ? { report: await weighReplacement(database(), params.id, read) }
        : replaceFile(database(), person, params.id, read);
    },
  }),
  endpoint({
    method: 'POST',
    path: '/cast/{id}/space',
    summary: 'Correct a cast member that was imported too large, too small, lying down, or facing the wrong way',
    about,
    need: 'change',
    heavy: true,
    params: idParams,
    body: z.object({
      scale: z.number().min(1e-4).max(1e4).default(1),
      turn: z.enum(['none', 'left', 'right', 'around', 'forwards', 'backwards']).default('none'),
    }),
    run: ({ person, params, body }) => respaceCast(database(), person, params.id, body.scale, body.turn),
  }),
  endpoint({
    method: 'POST',
    path: '/cast/{id}/cutout',
    summary: 'Set pivots, drawing order, hinges and facing of a cut-out',
    about,
    need: 'change',
    params: idParams,
    body: z.object({
      rigId: id.describe('The rig that was shown: somebody else’s change since is not overwritten'),
      change: cutoutChange,
    }),
    run: ({ person, params, body }) => changeCutout(database(), person, params.id, body.rigId, body.change),
  }),
  endpoint({
    method: 'POST',
    path: '/cast/{id}/joints',
    summary: 'Put a cut-out together anew by joints that are marked in its picture',
    about,
    need: 'change',
    heavy: true,
    params: idParams,
    body: z.object({
      rigId: id.describe('The rig that was shown: somebody else’s change since is not overwritten'),
      marks: z.partialRecord(z.enum(MARKED_JOINTS), pictured).describe('By slot: where the joint lies in the picture'),
    }),
    run: ({ person, params, body }) => markCutout(database(), person, params.id, body.rigId, body.marks as JointMarks),
  }),
  endpoint({
    method: 'POST',
    path: '/cast/{id}/drawings',
    summary: 'Add another cut-out’s drawings to those of the same parts',
    about,
    need: 'change',
    params: idParams,
    body: z.object({
      rigId: id.describe('The rig that was shown: somebody else’s change since is not overwritten'),
      from: id.optional().describe('The cast member whose drawings they are'),
      item: id.optional().describe('Or the item that keeps them'),
      parts: z
        .array(partName)
        .max(1000)
        .optional()
        .describe('Only for these parts; all that both figures have otherwise'),
      check: z.boolean().optional().describe('Only say what would happen'),
    }),
    run: ({ person, params, body: { rigId, from, item, parts, check } }) => {
      const source = from === undefined ? item !== undefined && { item } : { cast: from };
      if (!source) throw new Refusal(400, 'invalid', 'from: name a cast member or an item');
      return addDrawings(database(), person, params.id, rigId, source, { only: parts, check });
    },
  }),
  endpoint({
    method: 'POST',
    path: '/cast/{id}/drawing-sets',
    summary: 'Keep drawings of some parts of a cut-out as an item',
    about,
    need: 'change',
    params: idParams,
    body: z.object({ name, parts: z.array(partName).min(1).max(1000), folderId: id.nullable().default(null) }),
    answer: z.object({ item }),
    run: async ({ person, params, body }) => ({ item: await keepDrawings(database(), person, params.id, body) }),
  }),
  endpoint({
    method: 'GET',
    path: '/cast/{id}/fittings',
    summary: 'Fittings kept for a cast member, with what has changed since',
    about,
    need: 'read',
    params: idParams,
    answer: z.array(castFitting),
    run: ({ params }) => fittingsOf(database(), params.id),
  }),
  endpoint({
    method: 'GET',
    path: '/cast/{id}/fittings/{item}',
    summary: 'The fitting under work of an item on a cast member; version 0 where nothing was set',
    about,
    need: 'read',
    params: pair,
    answer: fittingDocument,
    run: ({ params }) => getFitting(database(), params.item, params.id),
  }),
  endpoint({
    method: 'PATCH',
    path: '/cast/{id}/fittings/{item}',
    summary: 'Write parts of the fitting under work, beside what others write at the same time',
    about,
    need: 'change',
    params: pair,
    body: batch,
    answer: fittingDocument,
    run: ({ person, params, body }) =>
      writeFitting(database(), person, { itemId: params.item, castId: params.id }, body),
  }),
  endpoint({
    method: 'PUT',
    path: '/cast/{id}/fittings/{item}',
    summary: 'Store the fitting under work of an item on a cast member',
    about,
    need: 'change',
    params: pair,
    body: z.object({ settings: fitSettings, edits: fitEdits, version: z.number().int().min(0) }),
    run: ({ person, params, body }) =>
      saveFitting(database(), person, {
        itemId: params.item,
        castId: params.id,
        settings: body.settings,
        edits: asEdits(body.edits),
        version: body.version,
      }),
  }),
  endpoint({
    method: 'GET',
    path: '/profiles',
    summary: 'Saved body maps with the rigs they serve',
    about,
    need: 'read',
    answer: z.array(profile),
    run: () => listProfiles(database()),
  }),
  endpoint({
    method: 'POST',
    path: '/profiles',
    summary: 'Save a rig’s body map under a name',
    about,
    need: 'change',
    body: z.object({ rigId: id, name: name.max(160) }),
    run: ({ person, body }) => addProfile(database(), person, body.rigId, body.name),
  }),
  endpoint({
    method: 'PUT',
    path: '/profiles/{id}',
    summary: 'Restore a deleted body map',
    about,
    need: 'change',
    params: idParams,
    body: z.object({
      name: name.max(160),
      map: z.object({ slots: rigSlots }),
    }),
    run: ({ person, params, body: { name, map } }) =>
      restoreProfile(database(), person, params.id, { name, map: { ...map, unused: [], warnings: [] } }),
  }),
  endpoint({
    method: 'DELETE',
    path: '/profiles/{id}',
    summary: 'Delete a saved body map; rigs it was applied to keep their maps',
    about,
    need: 'change',
    params: idParams,
    run: ({ person, params }) => removeProfile(database(), person, params.id),
  }),
  endpoint({
    method: 'POST',
    path: '/rigs/{id}/profile',
    summary: 'Apply a saved body map to a rig',
    about,
    need: 'change',
    params: idParams,
    body: z.object({ profile: id, version: z.number().int().positive() }),
    answer: savedMap,
    run: ({ person, params, body }) => applyProfile(database(), person, body.profile, params.id, body.version),
  }),
  endpoint({
    method: 'GET',
    path: '/destinations',
    summary: 'Destinations for exported files, with the settings remembered for each',
    about: 'Export',
    need: 'read',
    answer: z.array(destination),
    run: () => listDestinations(database()),
  }),
  endpoint({
    method: 'PUT',
    path: '/destinations',
    summary: 'Remember the export settings for a destination',
    about: 'Export',
    need: 'change',
    body: z.object({
      name: name.max(160),
      wish: exportWish,
    }),
    run: ({ person, body }) => keepDestination(database(), person, body.name, body.wish),
  }),
  endpoint({
    method: 'DELETE',
    path: '/destinations/{id}',
    summary: 'Forget a destination',
    about: 'Export',
    need: 'change',
    params: idParams,
    run: ({ person, params }) => removeDestination(database(), person, params.id),
  }),
  endpoint({
    method: 'GET',
    path: '/files/{hash}',
    summary: 'A kept file: the figure of a cast member, a picture of an item',
    about: 'Bytes',
    need: 'read',
    params: hashParams,
    file: 'application/octet-stream',
    run: async ({ params }) => {
      const { bytes, mime } = await fileBytes(database(), params.hash);
      return immutable(bytes, mime);
    },
  }),
];
