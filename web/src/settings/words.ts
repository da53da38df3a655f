import { plural } from "../shared/plural";

// WorkshopFields.tsx
export const nameAsOnPapers = "Name, as on papers";
export const addressAndTelephone = "Address and telephone";
export const currency = "Currency";
export const eurChfUsd = "EUR, CHF, USD …";
export const emptySumsAreWritten = "Empty: sums are written without one.";
export const anHourOfLabour = "An hour of labour costs";
export const aDayOfStanding = "A day of downtime costs the customer";
export const eachJobCanSay = "Each job can say otherwise.";
export const aJobThatComes = "A job that comes back costs";
export const moneyAndGoodwill = "Money and goodwill.";
export const taxThatPricesHold = "Tax that prices hold";
export const zeroPapersSayNothing = "0: papers say nothing of it.";
export const guaranteeOnWork = "Guarantee on work";
export const months = "months";
export const forLastingWork0 = "For lasting work; 0: as each plan says.";
export const timeZone = "Time zone";
export const ofTheDaysOn = "Of the days on papers. Empty: the server’s.";
export const units = "Units";
export const cMmMmNm = "°C, mm², mm, Nm";
export const fAwgInchLb = "°F, AWG, inch, lb ft beside them";
export const decimals = "Decimals";
export const withAPoint = "12.6 V, with a point";
export const withAComma = "12,6 V, with a comma";
export const eitherMayBeTyped = "Either may be typed.";
export const ownersSignIn = "Owners sign in";
export const withAPassword = "with their password";
export const withACodeBesides = "with a code from their phone as well";
export const withoutItAnOwner =
  "Each sets theirs up under their name. An owner without one does what technicians do.";
export const atTheFootOf = "At the foot of papers";
export const logoOnPapers = "Logo on papers";
export const theLogo = "The logo";
export const anotherPicture = "Another picture";
export const chooseAPicture = "Choose a picture";
export const none = "None";
export const logoFile = "Logo file";

// Settings.tsx
export const settings = "Settings";
export const theWorkshop = "The workshop";
export const keep = "Keep";
export const keepMineOverTheirs = "Keep mine over theirs";
export const takeTheirs = "Take theirs";
export const kept = "✓ Kept";
export const kb = (max: number) => `${max} kB`;
export const backups = "Backups";
export const noneAreKeptThis = "None are kept: this is the demo, or the server was started with";
export const theLastTryFailed = (problem: string) => `The last try failed: ${problem}`;
export const theFirstOneIs = "The first one is being written.";
export const theLastOne = "The last one:";
export const moreThanTwoDays = ", more than two days ago";
export const filesIn = (files: number, bytes: string) =>
  `${files} ${plural(files, { one: "file", other: "files" })}, ${bytes}, in`;
export const oneADayIs =
  ". One a day is kept for a week, one a week for four weeks, one a month for a year; each is read again after it was written. Copy the folder to another machine now and then: a disk that dies takes both.";
export const backUpNow = "Back up now";
export const toPutOneBack = "To put one back, stop the application and run";
export const whereItIsInstalled = "where it is installed.";
export const stopTheBackup = "Stop";
export const theBackupWasStopped = "Stopped. The backups of before are as they were.";
