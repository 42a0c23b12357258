import { toEternoError } from '../errors';

/** What is only there while the handset answers: null where it does not. @throws whatever else went wrong */
export const ifAnswers = <T>(work: Promise<T>): Promise<T | null> =>
  work.catch((thrown: unknown) => {
    if (toEternoError(thrown).code === 'link-lost') return null;
    throw thrown;
  });
