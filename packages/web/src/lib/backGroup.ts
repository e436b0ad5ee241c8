/** The students about whom “Who came back” is asked, passed along by the page that leads there. */
export interface BackGroup {
  readonly students: readonly string[];
}
