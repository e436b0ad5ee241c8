import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { openStage, type TestStage } from '../../testing/stage.ts';
import { noticesNow } from './notices.ts';
import { isLittle, roomOf, watchRoom } from './room.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
});
afterEach(() => stage.close());

test('little room is less than a twentieth of the disk, or less than a gigabyte', () => {
  expect(isLittle({ free: 49e9, size: 1000e9 })).toBe(true);
  expect(isLittle({ free: 51e9, size: 1000e9 })).toBe(false);
  expect(isLittle({ free: 0.9e9, size: 4e9 })).toBe(true);
});

test('the notice stands while there is little room, since when it began, and administrators read it', async () => {
  const said = () => noticesNow(unguarded(stage.orm), 'disk');
  await watchRoom(stage.orm, stage.folder, { free: 2e9, size: 100e9 });
  const [first] = await said();
  expect(first!.says).toMatch(/has 2\.0 GB free \(2%\)/);
  await watchRoom(stage.orm, stage.folder, { free: 1e9, size: 100e9 });
  const [second] = await said();
  expect(second).toMatchObject({ since: first!.since });
  expect(second!.says).toMatch(/1\.0 GB/);
  await watchRoom(stage.orm, stage.folder, { free: 50e9, size: 100e9 });
  expect(await said()).toEqual([]);
  // The real disk has a size.
  expect((await roomOf(stage.folder)).size).toBeGreaterThan(0);
});
