// The forms that a language has for one, several, many: chosen by the standard, not by hand.
import { language } from "./words";

const rules = new Intl.PluralRules(language);

/** The words for a number, by the language's own rule; `other` stands in for a form that is not given. */
export function plural(
  n: number,
  forms: { other: string } & Partial<Record<Intl.LDMLPluralRule, string>>,
): string {
  return forms[rules.select(n)] ?? forms.other;
}
