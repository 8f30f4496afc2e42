import { z } from 'zod';
import { BYTE_ROUTES, ROUTES, type ByteRoute, type RouteSpec } from '#contract';

type Json = Record<string, unknown>;

const inputSchema = (schema: z.ZodType): Json =>
  z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any', target: 'draft-2020-12' }) as Json;
const outputSchema = (schema: z.ZodType): Json =>
  z.toJSONSchema(schema, { io: 'output', unrepresentable: 'any', target: 'draft-2020-12' }) as Json;

let described: Json | null = null;

/** The OpenAPI 3.1 description, made of the table of routes. */
export function describeApi(): Json {
  described ??= {
    openapi: '3.1.0',
    info: {
      title: 'Dock Row',
      version: '0.1.0',
      description: 'Commands carry an Idempotency-Key; refusals are RFC 9457 problem documents.',
    },
    paths: paths(),
    components: {
      securitySchemes: { session: { type: 'apiKey', in: 'cookie', name: 'dockrow' } },
      schemas: {
        Problem: {
          type: 'object',
          required: ['type', 'title', 'status', 'code', 'detail'],
          properties: {
            type: { type: 'string' },
            title: { type: 'string' },
            status: { type: 'integer' },
            code: { type: 'string' },
            detail: { type: 'string' },
          },
          additionalProperties: true,
        },
      },
    },
  };
  return described;
}

function paths(): Json {
  const result: Record<string, Json> = {};
  for (const [name, spec] of Object.entries(ROUTES) as [string, RouteSpec][]) {
    const path = spec.path.replace(/:(\w+)/g, '{$1}');
    result[path] = { ...result[path], [spec.method.toLowerCase()]: operation(name, spec) };
  }
  for (const [name, spec] of Object.entries(BYTE_ROUTES) as [string, ByteRoute][]) {
    const path = spec.path.replace(/:(\w+)/g, '{$1}');
    result[path] = { ...result[path], [spec.method.toLowerCase()]: byteOperation(name, spec) };
  }
  return result;
}

/** What every operation says: who may, and how it is refused. */
function common(name: string, spec: Pick<RouteSpec, 'act' | 'allow'>): Json {
  return {
    operationId: name,
    summary: spec.act,
    tags: [name.split('.')[0]],
    'x-roles': spec.allow === 'public' ? 'public' : spec.allow.length === 0 ? 'everybody signed in' : spec.allow,
    ...(spec.allow === 'public' ? {} : { security: [{ session: [] }] }),
  };
}

const REFUSED = {
  description: 'Refused; nothing was changed',
  content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
};

function operation(name: string, spec: RouteSpec): Json {
  const command = spec.method === 'POST' && !spec.plain;
  return {
    ...common(name, spec),
    parameters: [
      ...parameters('path', spec.params),
      ...parameters('query', spec.query),
      ...(command ? [{ name: 'Idempotency-Key', in: 'header', required: true, schema: { type: 'string', format: 'uuid' } }] : []),
    ],
    ...(spec.body ? { requestBody: { required: true, content: { 'application/json': { schema: inputSchema(spec.body) } } } } : {}),
    responses: { 200: { description: 'Done', content: { 'application/json': { schema: outputSchema(spec.reply) } } }, default: REFUSED },
  };
}

function byteOperation(name: string, spec: ByteRoute): Json {
  const bytes = { schema: { type: 'string', format: 'binary' } };
  return {
    ...common(name, spec),
    parameters: [...parameters('path', spec.params), ...parameters('query', spec.query)],
    ...(spec.takesBytes ? { requestBody: { required: true, content: { 'application/octet-stream': bytes } } } : {}),
    responses: { 200: { description: 'Done', content: Object.fromEntries(spec.gives.map((type) => [type, bytes])) }, default: REFUSED },
  };
}

function parameters(where: 'path' | 'query', schema: z.ZodType | undefined): Json[] {
  if (!schema) return [];
  const { properties = {}, required = [] } = inputSchema(schema) as { properties?: Record<string, Json>; required?: string[] };
  return Object.entries(properties).map(([name, of]) => ({
    name,
    in: where,
    required: where === 'path' || required.includes(name),
    schema: of,
  }));
}
