import { build } from 'esbuild';
const banner = "import{createRequire}from'node:module';const require=createRequire(import.meta.url);";
await build({entryPoints:['src/cli/main.ts'],outdir:process.argv[2],outExtension:{'.js':'.mjs'},bundle:true,minify:true,platform:'node',format:'esm',target:'node20',banner:{js:banner},external:['sharp','proj4-list'],mainFields:['module','main'],splitting:process.argv[3]==='s',logLevel:'error'});
