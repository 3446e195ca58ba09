import { readFileSync } from 'node:fs';
import { terrainCodes } from '../tests/bench/material';
import { filter16Kernel, deflateKernel } from '../src/core/kernels';
const side=Number(process.argv[2]); const codes=terrainCodes(side);
const above=new Uint8Array(side*2); const stride=side*2+1; const rpp=Math.floor((1<<20)/stride);
const pieces:Uint8Array[]=[];
for(let y=0;y<side;y+=rpp){pieces.push(filter16Kernel(codes.subarray(y*side,Math.min(side,y+rpp)*side),side,above)!);}
for(const m of [true,false]){let n=0;const s=performance.now();for(const p of pieces)n+=deflateKernel(p,0,false,m)!.length;console.log(side,m,(n/1e6).toFixed(2),'MB',(performance.now()-s).toFixed(0),'ms');}
