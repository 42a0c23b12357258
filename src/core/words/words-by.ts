/** The members of a union of findings that may have a code, each with its fields. */
type WithCode<Finding, Code> = Finding extends { readonly code: infer Codes }
  ? Code extends Codes
    ? Finding
    : never
  : never;

/** A sentence for each code of a finding; each gets the fields that stand beside its code. */
type Catalogue<Finding extends { readonly code: string }> = {
  readonly [C in Finding['code']]: (finding: WithCode<Finding, C>) => string;
};

/** What a finding of a closed set of codes says, out of its catalogue. */
export const wordsBy =
  <Finding extends { readonly code: string }>(catalogue: Catalogue<Finding>) =>
  (finding: Finding): string => {
    const words: (finding: never) => string = catalogue[finding.code as Finding['code']];
    return words(finding as never);
  };
