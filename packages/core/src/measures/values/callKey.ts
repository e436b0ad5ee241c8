import type { MeasureCall } from './measure.ts';

const keys = new WeakMap<MeasureCall, string>();

/** One key a measure and its parameters, whatever the threshold. */
export function callKey(call: MeasureCall): string {
  let key = keys.get(call);
  if (key === undefined) {
    const { measure, item, window, group, items, of: actions, hours, days, than, criterion, name } = call;
    const rest = [actions, hours, days, than, criterion, name];
    key = JSON.stringify([measure, item, window, group, items, ...(rest.some((r) => r !== undefined) ? rest : [])]);
    keys.set(call, key);
  }
  return key;
}
