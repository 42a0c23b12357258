/** The members of a union of findings that may have a code, each with its fields. */
type WithCode<Finding, Code> = Finding extends { readonly code: infer Codes }
  ? Code extends Codes
    ? Finding
    : never
  : never;

/** What is said for each code of a finding; each gets the fields that stand beside its code. */
type Catalogue<Finding extends { readonly code: string }, Said> = {
  readonly [C in Finding['code']]: (finding: WithCode<Finding, C>) => Said;
};

/** What a finding of a closed set of codes says, out of its catalogue: one sentence, where it is not said otherwise. */
export const wordsBy =
  <Finding extends { readonly code: string }, Said = string>(catalogue: Catalogue<Finding, Said>) =>
  (finding: Finding): Said => {
    const words: (finding: never) => Said = catalogue[finding.code as Finding['code']];
    return words(finding as never);
  };
