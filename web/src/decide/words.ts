import { plural } from "../shared/plural";

// Costs.tsx
export const whatItCameTo = "What it came to in the end";
export const parts = "Parts";
export const minutesOfLabour = "Minutes of labour";
export const charged = "Charged";
export const keep = "Keep";
export const asEstimated = "as estimated";
export const more = (off: string) => `${off} more`;
export const less = (off: string) => `${off} less`;
export const againstEstimated = (price: string, off: string) => ` against ${price} estimated, ${off}`;

// OverYears.tsx
export const months = (fixed: string) => `${fixed} months`;
export const years = (y: number) => plural(y, { one: "year", other: "years" });
export const whatItCostsBy = "What it costs by how long the machine stays";
export const picture = "Picture";
export const numbers = "Numbers";
export const itStays = "It stays";
export const atOnceIn = (label: string, costs: string, money: string, last: string) =>
  `${label}: ${costs} at once, ${money} in ${last}`;

// PartsFor.tsx
export const partsCanBeLooked = "Parts can be looked for";
export const findAPartFor = (label: string) => `Find a part for: ${label}`;
export const findThePartBrush = "Find the part: brush 7x11x16, bearing 20x47x14, starter";
export const askingTheShelfAnd = "Asking the shelf and the supplier …";
export const nothingOfTheseWords =
  "Nothing of these words and measures. Fewer words, or type its price above.";
export const onTheShelf = "on the shelf";
export const days = (days: number) => ` · ${plural(days, { one: "1 day", other: `${days} days` })}`;
export const daysNotKnown = " · delivery time not known";
export const outOfStock = " · out of stock";
export const takeThis = "Take this";

// Plan.tsx
export const labour = "Labour";
export const standingStill = "Downtime";
export const riskOfFailingOr = "Risk of failing or coming back";
export const lastingRepairToFollow = "Lasting repair to follow";
export const inADay = "in a day";
export const inDays = (fixed: string) => `in ${fixed} days`;
export const costsLeast = " · costs least";
export const mayBeSetAside = " (may be set aside with a reason)";
export const to = (low: string, high: string) => `${low} to ${high}`;
export const notMended = "not mended";
export const curesIt = "cures it:";
export const somethingElseBehindIt = (behind: string) => `something else behind it: ${behind}`;
export const takeIt = "Take it";
export const whatItCostsIs = ": what it costs is in its figure.";
export const partsLabourMinStanding = (
  parts: string,
  labour: string,
  minutes: number,
  standing: string,
  riskcost: string,
) => `Parts ${parts}, labour ${labour} (${minutes} min), downtime ${standing}, risk ${riskcost}`;
export const theLastingRepairAfter = (later: string) => `, the lasting repair after it ${later}`;
export const itCuresWhatIs = "It cures what is wrong here:";
export const itDoesNotCure = (misses: string) => `. It does not cure: ${misses}`;
export const somethingElseMayBe = "Something else may be behind it:";
export const halfOfSuchWork = (lifeyears: string) => `Half of such repairs last over ${lifeyears} years;`;
export const comesBackWithinThe = (years: number) =>
  `comes back within the ${years} ${plural(years, { one: "year", other: "years" })} the machine stays.`;
export const partsWithoutPostage = "Parts, without postage";
export const minutes = "Minutes";
export const daysToWait = "Days to wait";
export const itThenLastsYears = "It then lasts, years";
export const guaranteeYears = "Guarantee, years";
export const choose = (label: string) => `Choose: ${label}`;
export const whyWhatStandsAgainst = "Why it is chosen all the same";
export const againstItWhyAll = (reason: string) => `Against it: ${reason}. Why all the same?`;
export const whoDecided = "Who decided";
export const theCustomerDecided = "The customer decided";
export const theWorkshopDecided = "The workshop decided";
export const name = "name";
export const nameOfWhoDecided = "Name of who decided";
export const agreedPrice = "Agreed price";
export const whyInOneLine = "Why, in one line";
export const reason = "Reason";
export const cancel = "Cancel";
export const chooseThis = "Choose this";

// Wishes.tsx
export const whatTheCustomerWants = "What the customer wants";
export const notMoreThan = "Not more than";
export const noLimit = "no limit";
export const itMustRunOn = "It must run on";
export const neededOnlyUntil = "Needed only until";
export const guarantee = "Guarantee";
export const nothingSaid = "nothing said";
export const nothingWithoutOne = "nothing without one";
export const noneAskedFor = "none asked for";
export const insulationOrHousingIs = "Insulation or housing is burnt";
export const itLiesNearFuel = "It lies near fuel, oil or gas";
export const oilGotIntoIt = "Oil got into it";
export const strandsBrokenOrInsulation = "Strands broken, or insulation chafed";
export const reckonedWithAnHour = (hourrate: string, lossperday: string, years: number) =>
  `Reckoned with ${hourrate} an hour, ${lossperday} a day of downtime, ${years} ${plural(years, { one: "year", other: "years" })} to stay.`;
export const change = "Change";
export const anHourOfLabour = "An hour of labour costs";
export const aDayOfStanding = "A day of downtime costs";
export const yearsTheMachineIs = "Years the machine is to stay";
export const eachComebackCosts = "Each comeback costs";
export const postageAnOrder = "Postage an order";
export const leastAnOrderMust = "Smallest order";
export const aVisitToThe = "A visit to the machine costs";
export const daysAYearIt = "Days a year it is missed if left as it is";
export const aWinderIsWithin = "A winder is within reach";

// Decide.tsx
export const nothingToDecideYet = "Nothing to decide yet";
export const noReadingWasTaken = "No reading was taken.";
export const backToMeasuring = "Back to measuring";
export const allThatWasChosen = "All that was chosen is done";
export const doWhatWasChosen = "Do what was chosen";
export const proveWhatWasDone = "Prove what was done";
export const itIsNotGood = "It is not good yet: decide what comes next";
export const printTheReport = "Print the report";
export const decideAboutAnotherPart = "Decide about another part";
export const thinkItOverOr = "Think it over, or decide about another part";
export const workingItOut = "Working it out …";
export const forTheNextOne = "For the next one to win,";
export const onlySureOfThe = (sure: string, names: string) => `Only ${sure} sure of the ${names}.`;
export const whichPartsItIs = "Which parts it is about";
export const about = "About";
