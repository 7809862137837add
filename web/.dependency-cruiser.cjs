// The floors of the page's code: each imports only those before it. Screens import no other screen, nobody imports app.
const FLOORS = [
  ['api'],
  ['theme'],
  ['parts'],
  ['definition'],
  ['sheet'],
  ['margin'],
  ['editors'],
  ['brief', 'chart'],
  ['intake'],
  ['start'],
  ['access', 'board', 'editions', 'groupings', 'history', 'reference', 'report', 'sources'],
  ['app'],
];

const within = (folders) => `^src/(${folders.join('|')})/`;

const upwards = FLOORS.slice(0, -1).map((floor, k) => ({
  name: `${floor[0]}-imports-upwards`,
  severity: 'error',
  from: { path: within(floor) },
  to: { path: within(FLOORS.slice(k + 1).flat()) },
}));

const beside = FLOORS.filter((floor) => floor.length > 1).flatMap((floor) =>
  floor.map((folder) => ({
    name: `${folder}-imports-beside`,
    severity: 'error',
    from: { path: within([folder]) },
    to: { path: within(floor.filter((other) => other !== folder)) },
  })),
);

module.exports = {
  forbidden: [
    ...upwards,
    ...beside,
    { name: 'no-circle', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'no-folder-without-a-floor',
      severity: 'error',
      from: { path: '^src/', pathNot: [within(FLOORS.flat()), '^src/main.tsx$'] },
      to: {},
    },
  ],
  options: { tsPreCompilationDeps: true, doNotFollow: { path: 'node_modules' }, tsConfig: { fileName: 'tsconfig.json' } },
};
