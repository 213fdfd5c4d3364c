/** JSON as it goes to whoever asked. */
export class JsonBytes {
  constructor(readonly bytes: Uint8Array) {}
}
