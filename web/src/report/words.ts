// Report.tsx
export const forTheCustomer = "For the customer";
export const onePageInPlain =
  "One page in plain words: what was wrong, found, done and paid, before and after.";
export const forTheFile = "For the file";
export const everythingReadingsWithTheir =
  "Everything: readings with their uncertainty, each repair, each proof, strip-down, photos, costs.";
export const labelForTheMachine = "Label for the machine";
export const dateWhatAndBy = "Date, what and by whom; a temporary repair says so, with its limit.";
export const thePapersAreMade =
  "The papers are made by the workshop’s server: open them when the connection is back.";
export const openThePdf = "Open the PDF";
export const makeAnExerciseOf = "Make an exercise of this job";
export const itStandsInThe = "✓ It stands in the trainer, under “From our own workshop”.";
export const nothingIsDecidedYet = "Nothing is decided yet: the papers say what is known so far.";
export const decide = "Decide";
export const theCustomersPage = "The customer's page";
export const job = (job: string, opened: string) => `Job ${job} · ${opened}`;
export const printThisPage = "Print this page";
