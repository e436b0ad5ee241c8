import { p, Type } from '@mikro-orm/core';

/** A moment as epoch milliseconds. */
export const instantColumn = () => p.bigint('number');

/** A text column that holds one of a closed set. A row with another value fails where it is read or written. */
class OneOfType<T extends string> extends Type<T, string> {
  private readonly values: ReadonlySet<string>;

  constructor(values: readonly T[]) {
    super();
    this.values = new Set(values);
  }

  override convertToDatabaseValue(value: T): string {
    return this.known(value);
  }

  override convertToJSValue(value: string): T {
    return this.known(value);
  }

  override getColumnType(): string {
    return 'text';
  }

  private known(value: T | string): T {
    if (value !== null && value !== undefined && !this.values.has(value)) {
      throw new Error(`“${value}” is not one of ${[...this.values].join(', ')}`);
    }
    return value as T;
  }
}

export const oneOf = <const T extends string>(values: readonly T[]) => p.type(new OneOfType<T>(values)).$type<T>();
