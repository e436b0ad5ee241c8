import { openStage } from './harness.ts';
const stage = await openStage();
const scene = await stage.openDemo({ place: process.argv[2]!.split(',')[0]! });
await scene.page.setViewport({ width: 1280, height: 800 });
let n = 0;
for (const place of process.argv[2]!.split(',')) {
  await scene.go(place.startsWith('http') ? place : `${stage.base}${place}`);
  await new Promise((r) => setTimeout(r, 1500));
  await scene.page.screenshot({ path: `/tmp/shot${++n}.png`, fullPage: process.argv[3] === 'full' });
}
await stage.stop();
process.exit(0);
