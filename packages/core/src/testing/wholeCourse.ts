/** Whole courses as scenario files, for tests of what goes out. */
import type { ScenarioJson } from '../imports/take/draft.ts';
import { parseScenario } from '../scenario/format.ts';
import { scenarioPieces, type WholeCourse } from '../exports/scenarioFile.ts';

/** What a whole course goes out as, read back. */
export const scenarioOf = async (whole: WholeCourse): Promise<ScenarioJson> => {
  let out = '';
  for await (const piece of scenarioPieces(whole)) out += piece;
  return JSON.parse(out) as ScenarioJson;
};
/** A scenario that must fit. */
export function parsedOf(json: ScenarioJson) {
  const parsed = parseScenario(json);
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return parsed.value;
}
