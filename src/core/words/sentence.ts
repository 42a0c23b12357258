/** A title in the middle of a sentence: names in it keep their capitals. */
export const lowerFirst = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);
/** The beginning of a sentence. */
export const upperFirst = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
