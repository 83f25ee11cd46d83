/** The floors of the page, from the lowest one up: what stands on one knows those below it, and what is named beside it. */
const FLOORS = [
  ['api', 'theme'],
  ['store'],
  ['parts'],
  ['sounding', 'ground'],
  ['picture', 'sky'],
  ['bench', 'shelf'],
  ['app'],
]
const BENCHES = ['carve', 'catch', 'dress', 'fly', 'make', 'send', 'sound']

const only = (name, from, to) => ({
  name,
  severity: 'error',
  from: { path: `^src/${from}/` },
  to: { path: '^src/', pathNot: to.map((t) => `^src/${t}/`) },
})

/** @type {import('dependency-cruiser').IConfiguration} */
module.exports = {
  forbidden: [
    { name: 'no circle', severity: 'error', from: {}, to: { circular: true } },
    ...FLOORS.flatMap((floor, n) =>
      floor
        .filter((each) => each !== 'bench')
        .map((each) => only(`nothing upwards from ${each}`, each, [each, ...FLOORS.slice(0, n).flat()])),
    ),
    // Each bench stands by itself.
    ...BENCHES.map((each) =>
      only(`${each} by itself`, `bench/${each}`, [`bench/${each}`, ...FLOORS.slice(0, 5).flat()]),
    ),
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    doNotFollow: { path: 'node_modules' },
  },
}
