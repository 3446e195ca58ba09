/** The layers of docs/architecture.md: an arrow points only downwards. */
const layer = (name, path, forbidden, why) => ({
  name,
  comment: why,
  severity: 'error',
  from: { path, pathNot: '\\.test\\.tsx?$' },
  to: { path: forbidden },
});

module.exports = {
  forbidden: [
    layer(
      'core-stands-alone',
      '^src/core',
      '^src/(?!core)',
      'The core runs in page, worker and Node: it knows nothing above itself.',
    ),
    {
      name: 'core-without-node',
      severity: 'error',
      from: { path: '^src/core', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-packages',
      comment: 'Every package the core leans on is named here.',
      severity: 'error',
      from: { path: '^src/core', pathNot: '\\.test\\.ts$' },
      to: {
        path: 'node_modules/',
        pathNot: 'node_modules/(zod|fflate|client-zip|hash-wasm|@noble/hashes|proj4|proj4-list|parse5|mdast-util-from-markdown|mdast-util-gfm-table|micromark-extension-gfm-table|@types/mdast)/',
      },
    },
    layer('io-on-core', '^src/io', '^src/(app|features|ui|state|workers|cli)', 'Input and output serve the core.'),
    layer('workers-on-core', '^src/workers', '^src/(app|features|ui|state|cli)', 'Workers know core and io only.'),
    layer('state-below-features', '^src/state', '^src/(app|features|ui|cli)', 'State holds no interface.'),
    layer(
      'ui-without-meaning',
      '^src/ui',
      '^src/(app|features|state|workers|cli|io)',
      'Primitives have no domain meaning.',
    ),
    layer(
      'features-below-app',
      '^src/features',
      '^src/(app|cli)',
      'Nobody imports the application shell or the command line.',
    ),
    layer('cli-on-core', '^src/cli', '^src/(app|features|ui|state)', 'The command line runs without an interface.'),
    layer('nobody-imports-app', '^src/(?!app)', '^src/app', 'Nobody imports the application shell.'),
    layer('nobody-imports-cli', '^src/(?!cli)', '^src/cli', 'Nobody imports the command line.'),
    {
      name: 'proof-stands-alone',
      comment:
        'What judges the work of plan and run shares nothing with them, but for the reading of files. Only the pipeline part, which is named for what it shows, runs them.',
      severity: 'error',
      from: { path: '^src/core/proof/(?!pipeline/)', pathNot: '\\.test\\.ts$' },
      to: {
        path: '^src/core/(plan|run|height|raster|grid|tiles|targets|view|relief|chain|operations|mosaic|squares|edits)/',
      },
    },
    {
      name: 'twin-knows-no-pipeline',
      severity: 'error',
      from: { path: '^src/core/proof/twin/', pathNot: '\\.test\\.ts$' },
      to: { path: ['^src/core/proof/pipeline/', '^src/core/wasm/'] },
    },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'core-front-doors',
      comment: 'A core folder is entered by its index.ts.',
      severity: 'error',
      from: { path: '^src/core/([^/]+)/', pathNot: '\\.test\\.ts$' },
      // a recipe knows what can be said of steps, not how they are done
      to: {
        path: '^src/core/[^/]+/',
        pathNot: ['^src/core/$1/', '^src/core/[^/]+/index\\.ts$', '^src/core/operations/schemas\\.ts$'],
      },
    },
    {
      name: 'core-front-doors-from-outside',
      severity: 'error',
      from: { path: '^src/(?!core)', pathNot: '\\.test\\.tsx?$' },
      // a thread that encodes pictures loads nothing else
      to: { path: '^src/core/[^/]+/', pathNot: '^src/core/[^/]+/index\\.ts$|^src/core/formats/png/index\\.ts$' },
    },
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    doNotFollow: { path: 'node_modules' },
  },
};
