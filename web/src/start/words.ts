// Start.tsx
export const startAJob = "Start a job";
export const aJobCanBe = "A job can be started";
export const whatDoesItDo = "What does it do, or not do?";
export const inTheCustomersWords =
  "In the customer's words: the heater fan is dead, only clicks, slower every morning …";
export const understood = "Understood:";
export const askMeAgain = "Ask me again";
export const whichMachineMayFollow = "Which machine? (may follow later)";
export const typeItsNameOr = "Type its name, or a new one";
export const aNewMachineWhat = "A new machine. What type is it?";
export const vanTractorBoatWire = "van, tractor, boat: wire colours are kept by type";
export const builtInIfYou = "Built in (if you know it: old machines fail otherwise than new ones)";
export const year = "year";
export const touchTheCircuitThat = "Touch the circuit that fits";
export const orTouchACircuit = "Or touch a circuit at once";
export const anotherCircuit = "Another circuit";
export const machineHereSince = (moment: string) => `Machine of ${moment}`;
