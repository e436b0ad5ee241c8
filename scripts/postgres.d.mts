/** A PostgreSQL cluster of one's own that is thrown away. */
export interface Cluster {
  readonly folder: string;
  /** The address of one of its databases; without a name, of the one that it begins with. */
  url(database?: string): string;
  processorTime(): number;
  restart(): void;
  end(): void;
}

export function installPostgres(): void;
export function startPostgres(options?: { readonly durable?: boolean; readonly connections?: number }): Cluster;
