/** Every way a call can fail, as a closed union. Branch on these, never on the text. */
export const ERROR_CODES = [
  'truncated',
  'bad-magic',
  'bad-field',
  'corrupt',
  'bad-hash',
  'too-large',
  'duplicate',
  'overlap',
  'too-deep',
  'unsafe-path',
  'unsupported',
  'not-found',
  'wrong-source',
  'already-patched',
  'does-not-fit',
  'kit-invalid',
  'kit-step-failed',
  'key-invalid',
  'refused',
  'cancelled',
  'link-lost',
  'handset-refused',
  'io',
  'server-gone',
  'conflict',
  'internal',
  'usage',
] as const;
export type ErrorCode = (typeof ERROR_CODES)[number];

/** Plain data beside the message: what was expected, which partition, which numbers. */
export type ErrorDetails = Readonly<Record<string, string | number | boolean | null>>;

export interface ErrorData {
  readonly code: ErrorCode;
  readonly message: string;
  /** The file or part of a file that is meant. */
  readonly file?: string;
  /** Byte offset in `file`. */
  readonly offset?: number;
  readonly details?: ErrorDetails;
}

/**
 * The one error class. It crosses workers and HTTP as `ErrorData`, because structured cloning loses classes.
 */
export class EternoError extends Error {
  readonly code: ErrorCode;
  readonly file?: string;
  readonly offset?: number;
  readonly details?: ErrorDetails;

  constructor(
    code: ErrorCode,
    message: string,
    at: { file?: string; offset?: number; details?: ErrorDetails; cause?: unknown } = {},
  ) {
    super(message, at.cause === undefined ? undefined : { cause: at.cause });
    this.name = 'EternoError';
    this.code = code;
    if (at.file !== undefined) this.file = at.file;
    if (at.offset !== undefined) this.offset = at.offset;
    if (at.details !== undefined) this.details = at.details;
  }

  toData(): ErrorData {
    return {
      code: this.code,
      message: this.message,
      ...(this.file === undefined ? {} : { file: this.file }),
      ...(this.offset === undefined ? {} : { offset: this.offset }),
      ...(this.details === undefined ? {} : { details: this.details }),
    };
  }

  static fromData(data: ErrorData): EternoError {
    return new EternoError(data.code, data.message, data);
  }

  /** The same error, naming `file` where none was named yet. */
  inFile(file: string): EternoError {
    return this.file === undefined
      ? new EternoError(this.code, this.message, { ...this.toData(), file, cause: this })
      : this;
  }
}

/** Turns anything thrown into an `EternoError`; what is not ours becomes `fallback`. */
export function toEternoError(thrown: unknown, fallback: ErrorCode = 'internal'): EternoError {
  if (thrown instanceof EternoError) return thrown;
  const message = thrown instanceof Error ? thrown.message : String(thrown);
  return new EternoError(fallback, message, { cause: thrown });
}

/** Exit code of the command for an error code: 2 usage, 4 refused by a gate, 1 surroundings, 3 bad input. */
export function exitCodeFor(code: ErrorCode): 1 | 2 | 3 | 4 {
  switch (code) {
    case 'usage':
      return 2;
    case 'refused':
    case 'already-patched':
    case 'does-not-fit':
      return 4;
    case 'cancelled':
    case 'link-lost':
    case 'handset-refused':
    case 'io':
    case 'server-gone':
    case 'conflict':
    case 'internal':
      return 1;
    default:
      return 3;
  }
}

/** @throws {EternoError} `cancelled` when the signal has fired */
export function throwIfAborted(signal: AbortSignal | undefined): void {
  if (!signal?.aborted) return;
  throw signal.reason instanceof EternoError
    ? signal.reason
    : new EternoError('cancelled', 'Stopped on request.');
}
