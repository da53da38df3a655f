export const theDemoIsIn = "The demo is in, for a look:";
export const itsMachinesAndJobs =
  "its machines and jobs are made up. Taken out, all work goes, what you tried on it as well; people and settings stay.";
export const takeTheDemoOut = "Take the demo out";
export const theWorkshopSName = "The workshop’s name, prices and currency";
export const thePeopleWhoWork = "The people who work here";
export const yourMetersSoThat = "Your meters, so that readings are weighed rightly";
export const whereToBegin = "Where to begin";
export const theFirstMachineIs = "The first machine is here: start a job";
export const done = "done";
export const onlyLooking = "Only looking?";
export const loadTheDemo = "Load the demo";
export const aMadeUpWorkshop =
  "A made-up workshop with machines and jobs; it is taken out again with one touch.";
