/** Columns of numbers that grow; the parts of the index that are as long as the store is large. */

type Numbers = Int32Array | Uint32Array | Float64Array | Uint8Array;

/** A typed array with room to grow. Values beyond the length are zero. */
export class Column<A extends Numbers> {
  length = 0;

  constructor(
    public data: A,
    private readonly make: (length: number) => A,
  ) {}

  static ints(capacity: number): Column<Int32Array> {
    return new Column(new Int32Array(capacity), (length) => new Int32Array(length));
  }

  static floats(capacity: number): Column<Float64Array> {
    return new Column(new Float64Array(capacity), (length) => new Float64Array(length));
  }

  static bytes(capacity: number): Column<Uint8Array> {
    return new Column(new Uint8Array(capacity), (length) => new Uint8Array(length));
  }

  push(value: number): number {
    if (this.length === this.data.length) {
      const grown = this.make(Math.max(16, this.data.length * 2));
      grown.set(this.data);
      this.data = grown;
    }
    this.data[this.length] = value;
    return this.length++;
  }

  at(index: number): number {
    return this.data[index] ?? 0;
  }

  get bytes(): number {
    return this.data.byteLength;
  }
}
