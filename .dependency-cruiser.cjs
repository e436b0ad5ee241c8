/** The way of data in the core: a room imports only itself and those before it. */
const WAY = [
  'problem',
  'access',
  'time',
  'course',
  'activity',
  'measures/values',
  'measures/catalogue',
  'measures/facts',
  'conditions',
  'rules',
  'saying',
  'nudges',
  'rounds/decide',
  'rounds/whatIf',
  'rounds/advice',
  'wording',
  'outcomes',
  'term',
  'lookout',
  'starters',
  'carry',
  'sets',
  'shelf',
  'terms',
  'exchange',
  'scenario',
  'imports/read',
  'imports/take',
  'connections',
  'exports',
  'contract',
];
const notLater = WAY.map((room, i) => ({
  name: `core-${room.replace('/', '-')}-imports-nothing-later`,
  severity: 'error',
  from: { path: `^packages/core/src/${room}/`, pathNot: '\\.test\\.ts$' },
  to: { path: `^packages/core/src/(${[...WAY.slice(i + 1), 'testing'].join('|')})/` },
}));

/**
 * The modules of the server, each with its folders: a module imports only itself and those before it, and nothing of what wires them; a
 * folder imports only itself and those before it in its module. Types alone may come from anywhere within a module.
 */
const SERVER = {
  platform: ['errors', 'process', 'turns', 'database', 'http', 'mail', 'notices', 'work'],
  access: ['directory'],
  course: ['activity', 'measures'],
  wording: ['files', 'letters', 'trials'],
  rules: ['sets'],
  mail: ['nudges', 'plainMail', 'byHand', 'replies', 'trials', 'pauses', 'sendings', 'outbox', 'log', 'tray'],
  rounds: ['deciding', 'replays', 'courses', 'takeBack'],
  intake: ['changes', 'statements', 'imports', 'staging', 'data', 'activity', 'setUp'],
  connections: ['oneRoster', 'lti'],
  desk: [
    'notes',
    'lookout',
    'figures',
    'counts',
    'courses',
    'exports',
    'inbox',
    'people',
    'rules',
    'students',
    'today',
    'wordings',
    'writing',
  ],
  terms: ['carry', 'sets', 'shelf', 'term', 'everywhere'],
  privacy: [],
};
const OWN_TESTS = '\\.test\\.ts$';
const WIRING = ['cli', 'testing', 'wiring', 'demo'];
const serverInOrder = Object.keys(SERVER).map((module, i, modules) => ({
  name: `server-${module}-imports-nothing-later`,
  severity: 'error',
  from: { path: `^packages/server/src/${module}/`, pathNot: OWN_TESTS },
  to: { path: `^packages/server/src/(${[...modules.slice(i + 1), ...WIRING].join('/|')}/|[^/]+\\.ts$)` },
}));
const foldersInOrder = Object.entries(SERVER).flatMap(([module, folders]) =>
  folders.map((folder, i) => ({
    name: `server-${module}-${folder}-imports-nothing-later`,
    severity: 'error',
    from: { path: `^packages/server/src/${module}/${folder}/`, pathNot: OWN_TESTS },
    to: {
      path: `^packages/server/src/${module}/(${folders
        .slice(i + 1)
        .map((later) => `${later}/|`)
        .join('')}routes\\.ts$)`,
      dependencyTypesNot: ['type-only'],
    },
  })),
);

/** The interface: a folder imports only itself and those before it; the places import none another. */
const WEB = [
  'ui',
  'lib',
  'parts/common',
  'parts/connections',
  'parts/exports',
  'parts/charts',
  'parts/messages',
  'parts/saying',
  'parts/conditions',
  'parts/rule',
  'parts/reach',
  'parts/trials',
  'parts/wording',
  'parts/editing',
  'parts/shelf',
  'parts/files',
  'parts/setUp',
  'parts/table',
  'places',
  'shell',
];
const webInOrder = WEB.map((folder, i) => ({
  name: `web-${folder.replace('/', '-')}-imports-nothing-later`,
  severity: 'error',
  from: { path: `^packages/web/src/${folder}/` },
  to: { path: `^packages/web/src/(${[...WEB.slice(i + 1), 'main\\.tsx'].join('|')})(/|$)` },
}));

/** @type {import('dependency-cruiser').IConfiguration} */
module.exports = {
  forbidden: [
    { name: 'no-circular', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^packages/core/src', pathNot: '\\.test\\.ts$|/testing/' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-knows-nobody',
      severity: 'error',
      from: { path: '^packages/core' },
      to: { path: '^packages/(server|web|standins)' },
    },
    {
      name: 'core-inside-imports-no-index',
      severity: 'error',
      from: { path: '^packages/core/src/' },
      to: { path: '^packages/core/src/[^/]+/index\\.ts$' },
    },
    {
      name: 'core-room-without-its-place-in-the-way',
      severity: 'error',
      from: {},
      to: {
        path: '^packages/core/src/',
        pathNot: `^packages/core/src/(${[...WAY, 'testing'].join('|')})/|^packages/core/src/[^/]+/index\\.ts$`,
      },
    },
    ...notLater,
    ...serverInOrder,
    ...foldersInOrder,
    {
      name: 'no-server-folder-without-its-place-in-the-order',
      severity: 'error',
      from: {},
      to: {
        path: '^packages/server/src/',
        pathNot: `^packages/server/src/([^/]+\\.ts$|(${[...WIRING, ...Object.entries(SERVER).map(([m, folders]) => `${m}/(${folders.map((f) => `${f}/|`).join('')}[^/]+$)`)].join('|')}))`,
      },
    },
    ...webInOrder,
    {
      name: 'no-web-folder-without-its-place-in-the-order',
      severity: 'error',
      from: {},
      to: {
        path: '^packages/web/src/',
        pathNot: `^packages/web/src/(${[...WEB, 'testing'].join('|')})/|^packages/web/src/[^/]+$`,
      },
    },
    {
      name: 'no-place-imports-another',
      severity: 'error',
      from: { path: '^packages/web/src/places/([^/]+)/' },
      to: { path: '^packages/web/src/places/', pathNot: '^packages/web/src/places/$1/' },
    },
    {
      name: 'web-not-server',
      severity: 'error',
      from: { path: '^packages/web' },
      to: { path: '^packages/(server|standins)' },
    },
    {
      name: 'standins-not-server',
      severity: 'error',
      from: { path: '^packages/standins' },
      to: { path: '^packages/(server|web)' },
    },
    {
      name: 'only-the-composition-root-knows-the-standins',
      severity: 'error',
      from: {
        path: '^packages/server/src',
        pathNot: '^packages/server/src/(start\\.ts$|demo/)|\\.test\\.ts$|/testing/',
      },
      to: { path: '^packages/standins|@zest-bell/standins' },
    },
    {
      name: 'no-orm-outside-server',
      severity: 'error',
      from: { pathNot: '^packages/server' },
      to: { path: 'node_modules/@mikro-orm' },
    },
    { name: 'not-resolvable', severity: 'error', from: {}, to: { couldNotResolve: true } },
  ],
  options: {
    doNotFollow: { path: 'node_modules|/dist/' },
    exclude: { path: '/dist/|/dist-types/' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['zest-source', 'import', 'node', 'default', 'types'],
      extensions: ['.ts', '.tsx', '.js', '.jsx', '.mjs', '.cjs', '.json', '.css'],
    },
  },
};
