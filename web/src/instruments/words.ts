// Instruments.tsx
export const multimeter = "Multimeter";
export const dcClamp = "DC clamp";
export const scope = "Scope";
export const meters = "Meters";
export const whatAReadingIs =
  "What a reading is worth depends on the meter. Zero the leads and the clamp each day, and every reading is corrected for them.";
export const noMetersYetAn =
  "No meters yet: an ordinary handheld and an ordinary clamp are assumed. Add yours.";
export const countsOf = (percent: number, counts: number, digit: number, kind: string) =>
  `± (${percent} % + ${counts} counts of ${digit} ${kind})`;
export const readLiveAt = (address: string) => ` · read live at ${address}`;
export const readByEye = " · read by eye";
export const change = "Change";
export const forget = "Forget";
export const addAMeter = "Add a meter";
export const changeAMeter = "Change a meter";
export const name = "Name";
export const kind = "Kind";
export const percentOfTheReading = "Percent of the reading";
export const counts = "Counts";
export const volts = "volts";
export const amperes = "amperes";
export const oneCount = (kind: string) => `One count, ${kind}`;
export const oneCountOhms = "One count, ohms";
export const addressForLiveReadings = "Address, for live readings";
export const exampleAddress = "192.168.1.20:5025";
export const orASerialLine = "Or a serial line of the server, such as /dev/ttyUSB0. Empty: read by eye.";
export const aTechnicianOrThe = "A technician or the owner says where it is reached.";
export const keep = "Keep";
export const cancel = "Cancel";
export const leadsHeldTogetherRead = "Leads held together read";
export const roundNothingItReads = "Round nothing it reads";
export const leadsOhms = "leads, ohms";
export const zeroAmperes = "zero, amperes";
export const zeroedToday = "Zeroed today";
export const instrumentsZeroedToday = "✓ zeroed today";
export const notZeroedToday = "not zeroed today";
export const ohmsTo = (digit: number) => ` · ohms to ${digit} Ω`;
