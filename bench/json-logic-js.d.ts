/** The little that the bench uses of json-logic-js, which ships no types. */
declare module 'json-logic-js' {
  export type RulesLogic = object;
  const jsonLogic: { apply(logic: RulesLogic, data: object): unknown };
  export default jsonLogic;
}
