/** The kinds of the library's errors. */
export type ErrorKind =
  | "usage" | "malformed" | "unsupported" | "limit" | "memory" | "missing" | "forbidden" | "full" | "interrupted" | "io"
  | "device" | "cancelled";

/** What every failing call throws: what is wrong, with what, and where. */
export class LatticeError extends Error {
  readonly kind: ErrorKind;
  /** A file or an argument; may be empty. */
  readonly place: string;
  /** Byte offset in the file, where it is known. */
  readonly offset: number | undefined;

  constructor(kind: ErrorKind, message: string, place = "", offset?: number) {
    super(place === "" ? message : `${place}: ${message}`);
    this.name = "LatticeError";
    this.kind = kind;
    this.place = place;
    this.offset = offset;
  }

  /** The message without the place. */
  get problem(): string {
    return this.place === "" ? this.message : this.message.slice(this.place.length + 2);
  }

  /** The same error with the file that it is about. */
  at(place: string): LatticeError {
    return new LatticeError(this.kind, this.problem, place, this.offset);
  }
}

/** One thing that was noticed: it is allowed, but will probably look wrong. */
export interface Finding {
  /** Stable across versions: "normal-as-color". */
  code: string;
  problem: string;
  remedy: string;
  level: "error" | "warning" | "hint";
}
