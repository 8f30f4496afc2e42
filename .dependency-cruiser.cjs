// The house rules: floors and rooms build on each other in one direction only.
const ROOMS = [
  'people',
  'settings',
  'work',
  'places',
  'items',
  'stock',
  'lots',
  'floor',
  'purchasing',
  'receiving',
  'moves',
  'orders',
  'counting',
  'picking',
  'shipping',
  'channel',
  'carrying',
  'hands',
  'desk',
];
// Rooms on one step do not know each other: an order knows nothing of receiving.
const STEPS = [
  ['people', 'settings', 'work'],
  ['items', 'places'],
  ['stock'],
  ['lots'],
  ['floor'],
  ['purchasing'],
  ['receiving', 'moves', 'orders', 'counting'],
  ['picking'],
  ['shipping', 'channel', 'carrying'],
  ['hands'],
  ['desk'],
];
const above = (room) =>
  STEPS.slice(STEPS.findIndex((s) => s.includes(room)))
    .flat()
    .filter(
      (r) => r !== room && !(STEPS.find((s) => s.includes(room)).includes(r) && ['people', 'settings', 'items', 'places'].includes(r)),
    );
const oneWay = ROOMS.flatMap((room) => {
  const later = above(room);
  return later.length === 0
    ? []
    : [
        {
          name: `${room}-looks-left-only`,
          severity: 'error',
          comment: `${room} must not know the rooms that build on it.`,
          from: { path: `^(core|contract|server)/${room}/`, pathNot: '\\.test\\.ts$' },
          to: { path: `^(core|contract|server)/(${later.join('|')})/` },
        },
      ];
});
// The web has the same rooms in the same order, but for its hands: what a device keeps and tells is the ground that its screens stand
// on, there and at
// the desk. The desk and the handheld are made of all rooms, and no room knows them.
const GROUND = ['base', 'door', 'table', 'forms', 'chart', 'camera', 'hands'];
const webOneWay = [
  ...ROOMS.filter((room) => room !== 'hands' && room !== 'desk').map((room) => ({
    name: `web-${room}-looks-left-only`,
    severity: 'error',
    from: { path: `^web/${room}/` },
    to: { path: `^web/(${[...above(room).filter((r) => r !== 'hands'), 'handheld'].join('|')})/` },
  })),
  {
    name: 'web-ground-knows-no-room',
    severity: 'error',
    from: { path: `^web/(${GROUND.join('|')})/`, pathNot: '\\.test\\.ts$' },
    to: { path: '^web/', pathNot: `^web/(${GROUND.join('|')}|versions\\.ts|work)` },
  },
];
module.exports = {
  forbidden: [
    ...oneWay,
    ...webOneWay,
    {
      name: 'labels-know-items-and-places-only',
      severity: 'error',
      from: { path: '^(core|contract|server)/labels/' },
      to: { path: `^(core|contract|server)/(${ROOMS.filter((r) => !['items', 'places', 'people', 'settings'].includes(r)).join('|')})/` },
    },
    {
      name: 'core-is-pure',
      severity: 'error',
      comment: 'Core imports nothing but core: no I/O, no packages.',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { pathNot: '^core/' },
    },
    { name: 'contract-knows-core', severity: 'error', from: { path: '^contract/' }, to: { path: '^(server|web|devices|demo|e2e|bench)/' } },
    { name: 'web-never-imports-server', severity: 'error', from: { path: '^web/' }, to: { path: '^(server|devices|demo|e2e|bench)/' } },
    {
      name: 'server-never-imports-web',
      severity: 'error',
      from: { path: '^server/', pathNot: '^server/testing/|\\.test\\.ts$' },
      to: { path: '^(web|devices|demo|e2e|bench)/' },
    },
    {
      name: 'rooms-by-their-door',
      severity: 'error',
      comment: 'Only a room’s index.ts is for others.',
      from: { path: '^(core|contract|server|web)/([^/]+)/', pathNot: '^server/testing/' },
      to: {
        path: '^(core|contract|server|web)/[^/]+/.+',
        pathNot: ['^$1/$2/', '/index\\.ts$', '^server/testing/', '^core/floor/testing\\.ts$'],
      },
    },
    {
      name: 'sql-stands-on-the-server',
      severity: 'error',
      from: { path: '^(core|contract|web)/' },
      to: { path: 'node_modules/(knex|pg)/' },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: { pathNot: '\\.test\\.ts$' },
      to: { circular: true },
    },
    {
      name: 'everything-resolves',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true, pathNot: ['^@fontsource', '^virtual:', '\\.css$', '\\?url$'] },
    },
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    doNotFollow: { path: 'node_modules' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default', 'types'],
      extensions: ['.ts', '.tsx', '.js', '.mjs', '.json'],
    },
  },
};
