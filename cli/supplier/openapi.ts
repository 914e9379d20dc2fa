const text = { type: 'string' };
const whole = { type: 'integer' };
const list = (items: object): object => ({ type: 'array', items });
const object = (properties: Record<string, object>): object => ({
  type: 'object',
  properties,
  required: Object.keys(properties),
});
const answer = (schema: object): object => ({ content: { 'application/json': { schema } }, description: 'Done' });
const file = (type: string): object => ({ content: { [type]: {} }, description: 'The file' });
const param = (name: string, where: 'path' | 'query', schema: object = text): object => ({
  name,
  in: where,
  required: where === 'path',
  schema,
});

const take = object({
  id: text,
  name: text,
  note: text,
  tags: list(text),
  seconds: { type: 'number' },
  fps: { type: 'number' },
  price: whole,
  issue: whole,
  packs: list(text),
});

/** What the stand-in supplier answers, as OpenAPI 3.1. */
export const openApi = (name: string): object => ({
  openapi: '3.1.0',
  info: {
    title: name,
    version: '1',
    description:
      'A stand-in for a supplier of motion. Owning is a state: asking for it twice charges once. Errors come as {"error":{"message"}}.',
  },
  components: { securitySchemes: { key: { type: 'http', scheme: 'bearer' } } },
  paths: {
    '/takes': {
      get: {
        summary: 'The catalogue, a page at a time',
        parameters: [
          param('q', 'query'),
          param('tag', 'query'),
          param('pack', 'query'),
          param('ids', 'query'),
          param('page', 'query', whole),
        ],
        responses: {
          200: answer(
            object({
              takes: list(take),
              total: whole,
              pages: whole,
              tags: list(object({ name: text, count: whole })),
            }),
          ),
        },
      },
    },
    '/takes/{id}': {
      get: { summary: 'One take', parameters: [param('id', 'path')], responses: { 200: answer(take) } },
    },
    '/takes/{id}/strip.png': {
      get: {
        summary: 'Some of its poses in a row',
        parameters: [param('id', 'path')],
        responses: { 200: file('image/png') },
      },
    },
    '/takes/{id}/preview.bvh': {
      get: {
        summary: 'Its first three seconds, ten frames a second',
        parameters: [param('id', 'path')],
        responses: { 200: file('text/plain') },
      },
    },
    '/takes/{id}/issues/{issue}': {
      get: {
        summary: 'An issue: its length, its SHA-256 and what changed since the one before',
        parameters: [param('id', 'path'), param('issue', 'path', whole)],
        responses: { 200: answer(object({ number: whole, changes: text, bytes: whole, sha256: text })) },
      },
    },
    '/takes/{id}/issues/{issue}/file': {
      get: {
        summary: 'The motion as BVH, for those who own it',
        security: [{ key: [] }],
        parameters: [param('id', 'path'), param('issue', 'path', whole)],
        responses: { 200: file('text/plain') },
      },
    },
    '/packs': {
      get: {
        summary: 'Sets of takes for less than one by one',
        responses: {
          200: answer(
            object({ packs: list(object({ id: text, name: text, note: text, takes: list(text), price: whole })) }),
          ),
        },
      },
    },
    '/account': {
      get: {
        summary: 'Credits and what is owned, with the newest issue of each',
        security: [{ key: [] }],
        responses: {
          200: answer(object({ name: text, credits: whole, owned: list(object({ id: text, issue: whole })) })),
        },
      },
    },
    '/account/charges': {
      get: {
        summary: 'What was paid for',
        security: [{ key: [] }],
        responses: { 200: answer(object({ charges: list(object({ for: text, credits: whole, at: text })) })) },
      },
    },
    '/account/owned/{id}': {
      put: {
        summary: 'Own a take or a pack for the price that was seen; what is owned already is not charged',
        security: [{ key: [] }],
        parameters: [param('id', 'path')],
        requestBody: { content: { 'application/json': { schema: object({ price: whole }) } } },
        responses: {
          200: answer(object({ charged: whole, credits: whole })),
          402: { description: 'Too few credits' },
          409: { description: 'The price has changed' },
        },
      },
    },
    '/stand-in/faults': {
      post: {
        summary: 'How many answers go wrong, in percent, and how: slow, cut, error, length, doubled',
        requestBody: {
          content: { 'application/json': { schema: object({ percent: { type: 'number' }, kinds: list(text) }) } },
        },
        responses: { 200: answer(object({})) },
      },
    },
    '/stand-in/reissue': {
      post: {
        summary: 'Issue a take anew',
        requestBody: { content: { 'application/json': { schema: object({ id: text, changes: text }) } } },
        responses: { 200: answer(object({ issue: whole })) },
      },
    },
  },
});
