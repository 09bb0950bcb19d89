import { FactsCollector } from '@core/audio';
import { memorySource, readAudioFile, readFrames } from '@core/files';
import { readFileSync, readdirSync } from 'node:fs';
const paths=readdirSync('.demo/libraries',{recursive:true,encoding:'utf8'}).filter(p=>/\.(wav|aif)$/.test(p));
let secs=0, ms=0;
for(const p of paths){const s=memorySource(readFileSync('.demo/libraries/'+p));const f=await readAudioFile(s);const t=performance.now();
 const c=await FactsCollector.start(f.format.frames,f.format.rate,f.format.channels); for(let at=0;at<f.format.frames;at+=1<<17)c.push(await readFrames(s,f.format,at,1<<17)); c.done(); ms+=performance.now()-t; secs+=f.format.frames/f.format.rate;}
console.log(paths.length,'files',secs.toFixed(0),'s audio',(ms/1000).toFixed(1),'s', (secs*1000/ms).toFixed(0),'x', 'per minute',(ms*60/secs/1000).toFixed(2));
