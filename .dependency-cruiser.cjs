/** The way of data in the core: a folder imports only itself and those before it. */
const WAY = [
  'time',
  'course',
  'activity',
  'measures',
  'conditions',
  'rules',
  'nudges',
  'rounds',
  'wording',
  'outcomes',
  'lookout',
  'starters',
  'exchange',
  'scenario',
  'imports',
];
const notLater = WAY.slice(0, -1).map((folder, i) => ({
  name: `core-${folder}-imports-nothing-later`,
  severity: 'error',
  from: { path: `^packages/core/src/${folder}/`, pathNot: '\\.test\\.ts$' },
  to: { path: `^packages/core/src/(${WAY.slice(i + 1).join('|')})/` },
}));

/** The order of the server: a folder imports only itself and those before it; what joins them is wired at the root. */
const SERVER = [
  'platform',
  'accounts',
  'course',
  'notes',
  'lookout',
  'activity',
  'files',
  'letters',
  'wording',
  'trials',
  'rules',
  'nudges',
  'mailings',
  'sendLog',
  'outbox',
  'plainMail',
  'replies',
  'pauses',
  'rounds',
  'replays',
  'changes',
  'imports',
  'statements',
  'places',
];
const OWN_TESTS = '\\.test\\.ts$';
const serverInOrder = SERVER.map((folder, i) => ({
  name: `server-${folder}-imports-nothing-later`,
  severity: 'error',
  from: { path: `^packages/server/src/${folder}/`, pathNot: OWN_TESTS },
  to: {
    // Of the root, a folder knows the type of what all share.
    path: `^packages/server/src/(${[...SERVER.slice(i + 1).map((f) => `${f}/`), '(?!services\\.ts)[^/]+\\.ts$'].join('|')})`,
  },
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
      name: 'core-inside-imports-no-barrel',
      severity: 'error',
      from: { path: '^packages/core/src/.+' },
      to: { path: '^packages/core/src/index\\.ts$' },
    },
    ...notLater,
    ...serverInOrder,
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
      from: { path: '^packages/server/src', pathNot: '^packages/server/src/(main|demo)\\.ts$|\\.test\\.ts$|/testing/' },
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
