/** The part of the reference library that tests ask. */
declare module 'jstat' {
  const jstat: { readonly normal: { inv(p: number, mean: number, deviation: number): number } };
  export default jstat;
}
