import { SaxesParser } from 'saxes';
import { EternoError } from '@/core/errors';
import type { ReadXml } from '@/core/formats/flash-list/parse-flash-list';

/** The core's XML port over a kept parser, strict; entities of a document's own are not known and end it. */
export const readXml: ReadXml = (text, onElement) => {
  const parser = new SaxesParser({ xmlns: false, position: true });
  parser.on('error', ({ message }) => {
    throw new EternoError('bad-field', `this is no well-formed XML: ${message}`, { offset: parser.position });
  });
  parser.on('opentag', ({ name, attributes }) => onElement(name, attributes));
  parser.write(text).close();
};
