/** Small whole numbers for ids, given in the order in which the ids first come and never taken back. */
export class Keys {
  private readonly byId = new Map<string, number>();
  private readonly ids: string[] = [];

  /** The key of an id, which gets one if it has none. */
  of(id: string): number {
    let key = this.byId.get(id);
    if (key === undefined) {
      key = this.ids.length;
      this.ids.push(id);
      this.byId.set(id, key);
    }
    return key;
  }

  /** The key of an id, or null if it has none yet. */
  find(id: string): number | null {
    return this.byId.get(id) ?? null;
  }

  /** All ids, each at its key. */
  get all(): readonly string[] {
    return this.ids;
  }
}
