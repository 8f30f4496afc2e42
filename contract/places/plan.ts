import { z } from 'zod';
import { routesOf } from '../base/index.ts';

const cell = z.number().int().min(0).max(2000);
const span = z.number().int().min(1).max(600);
export const PlanAisle = z.object({
  key: z.string().max(60),
  zone: z.number().int(),
  name: z.string().max(40),
  x: cell,
  y: cell,
  along: z.enum(['x', 'y']),
  sides: z.union([z.literal(1), z.literal(2)]),
  way: z.enum(['both', 'up', 'down']),
  bays: z.array(z.string().max(40)).max(2000).readonly(),
});
export const PlanThing = z.object({
  kind: z.enum(['door', 'bench', 'wall']),
  name: z.string().max(40),
  x: cell,
  y: cell,
  w: span,
  h: span,
});
export const PlanSpot = z.object({ zone: z.number().int(), address: z.string().max(40), x: cell, y: cell });
export const FloorPlan = z.object({
  cell: z.number().min(0.2).max(20),
  width: z.number().int().min(5).max(2000),
  height: z.number().int().min(5).max(2000),
  aisles: z.array(PlanAisle).max(2000).readonly(),
  spots: z.array(PlanSpot).max(50_000).readonly().default([]),
  things: z.array(PlanThing).max(500).readonly(),
});

export const planRoutes = routesOf({
  'places.plan': {
    method: 'GET',
    path: '/api/plan',
    allow: [],
    act: 'See the plan',
    query: z.object({ anew: z.literal('yes').optional().describe('As drawn from the addresses, whatever was arranged') }),
    reply: z.object({
      site: z.string(),
      revision: z.number(),
      drawn: z.boolean(),
      zones: z.array(z.object({ id: z.number(), code: z.string(), name: z.string() })),
      layout: FloorPlan,
    }),
  },
  'places.savePlan': {
    method: 'POST',
    path: '/api/plan',
    allow: ['lead'],
    act: 'Change the plan',
    body: z.object({ revision: z.number().int().min(0), layout: FloorPlan }),
    reply: z.object({ revision: z.number() }),
  },
  'places.planMeasures': {
    method: 'GET',
    path: '/api/plan/measures',
    allow: [],
    act: 'See what the plan shows',
    // Columns rather than rows: 20,000 bins are a third of the size.
    reply: z.object({
      id: z.array(z.number()),
      address: z.array(z.string()),
      zone: z.array(z.number()),
      fill: z.array(z.number().nullable()).describe('Percent of the tightest limit; null without a limit'),
      items: z.array(z.number()),
      touches: z.array(z.number()).describe('Movements in or out in the last 30 days'),
      counted: z.array(z.number().nullable()).describe('Days since the last posted count; null where never'),
    }),
  },
});
