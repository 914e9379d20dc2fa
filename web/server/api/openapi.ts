import { z } from 'zod';
import { ENDPOINTS } from './all';
import type { Endpoint } from './endpoint';

type Json = Record<string, unknown>;

const schemaOf = (type: z.ZodType, io: 'input' | 'output', components: Record<string, Json>): Json => {
  const {
    $schema: _,
    $defs,
    ...schema
  } = z.toJSONSchema(type, { io, unrepresentable: 'any', reused: 'inline' }) as Json;
  // what has a name is told once
  for (const [name, def] of Object.entries(($defs as Record<string, Json>) ?? {}))
    components[name] = moved(def) as Json;
  return moved(schema) as Json;
};

/** References into the document's own components. */
function moved(x: unknown): unknown {
  if (Array.isArray(x)) return x.map(moved);
  if (x === null || typeof x !== 'object') return x;
  return Object.fromEntries(
    Object.entries(x)
      // the name a schema goes by, not a property called so
      .filter(([k, v]) => k !== 'id' || typeof v !== 'string')
      .map(([k, v]) => [
        k,
        k === '$ref' && typeof v === 'string' ? v.replace('#/$defs/', '#/components/schemas/') : moved(v),
      ]),
  );
}

const parametersOf = (e: Endpoint, components: Record<string, Json>): Json[] => {
  const out: Json[] = [];
  for (const [place, type] of [
    ['path', e.params],
    ['query', e.query],
  ] as const) {
    if (!type) continue;
    const schema = schemaOf(type, 'input', components) as { properties?: Record<string, Json>; required?: string[] };
    for (const [name, property] of Object.entries(schema.properties ?? {}))
      out.push({
        name,
        in: place,
        required: place === 'path' || (schema.required ?? []).includes(name),
        ...(typeof property.description === 'string' && { description: property.description }),
        schema: property,
      });
  }
  return out;
};

/** The OpenAPI document of everything the server answers to, made from the very schemas that check the input. */
export function openApi(): Json {
  const components: Record<string, Json> = {
    Refusal: {
      type: 'object',
      required: ['code', 'message'],
      properties: {
        code: { type: 'string', description: 'Stable; programs may branch on it' },
        message: { type: 'string', description: 'What is wrong and what to do, as a sentence for people' },
        details: { type: 'object' },
      },
    },
  };
  const paths: Record<string, Json> = {};
  for (const e of ENDPOINTS) {
    const parameters = parametersOf(e, components);
    const ok: Json = e.file
      ? { description: 'The bytes', content: { [e.file]: { schema: { type: 'string', format: 'binary' } } } }
      : {
          description: 'Done',
          content: { 'application/json': { schema: e.answer ? schemaOf(e.answer, 'input', components) : {} } },
        };
    const refused = (description: string): Json => ({
      description,
      content: { 'application/json': { schema: { $ref: '#/components/schemas/Refusal' } } },
    });
    paths[e.path] = {
      ...paths[e.path],
      [e.method.toLowerCase()]: {
        summary: e.summary,
        tags: [e.about],
        operationId: `${e.method.toLowerCase()}${e.path.replace(/[{}]/g, '').replace(/\/(\w)/g, (_, c: string) => c.toUpperCase())}`,
        'x-role': e.need,
        ...(parameters.length > 0 && { parameters }),
        ...(e.body && {
          requestBody: {
            required: true,
            content: { 'application/json': { schema: schemaOf(e.body, 'input', components) } },
          },
        }),
        ...(e.form && {
          requestBody: {
            required: true,
            content: {
              'multipart/form-data': {
                schema: {
                  type: 'object',
                  required: ['file'],
                  properties: {
                    file: { type: 'string', format: 'binary' },
                    skeleton: { type: 'string', format: 'binary' },
                  },
                },
              },
            },
          },
        }),
        responses: {
          200: ok,
          400: refused('The input is not valid'),
          401: refused('No one is signed in, or the token is not valid'),
          403: refused('Not allowed'),
          404: refused('Not found'),
          ...(e.need !== 'read' && { 409: refused('It has changed in the meantime; nothing was written') }),
          429: refused('Too many requests'),
        },
      },
    };
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Velvet Reel',
      version: '1',
      description:
        'Everything that the pages do goes through this interface, under the same rights. Programs show a token: Authorization: Bearer vr_…',
    },
    servers: [{ url: '/api/v1' }],
    security: [{ token: [] }],
    paths,
    components: { schemas: components, securitySchemes: { token: { type: 'http', scheme: 'bearer' } } },
  };
}
