// CodeEditor.tsx
export const codeOfLine = (i: number) => `Code of line ${i}`;
export const code = "code";
export const faultsOfLine = (i: number) => `Faults of line ${i}`;
export const partAndWhatIs = "part and what is wrong with it; several if the code stands for several";
export const meaningOfLine = (i: number) => `Meaning of line ${i}`;
export const asTheManualSays = "as the manual says it (may stay empty)";
export const takeLineOut = (i: number) => `Take line ${i} out`;
export const anotherCode = "Another code";
export const keepThisTable = "Keep this table";

// Controller.tsx
export const controllerWhoseLampIs = "Controller whose lamp is read";
export const whichController = "which controller?";
export const aNewOne = "A new one";
export const itsCodes = "Its codes";
export const nameOfTheNew = "Name of the new controller";
export const asItIsCalled = "as it is called here: what stands on its cover";
export const keep = "Keep";
export const cancel = "Cancel";

// Codes.tsx
export const blinkCodes = "Blink codes";
export const theSameControllerFlashes =
  "The same controller flashes different meanings in different machines. A machine’s own table comes before the controller’s; a code read from the wrong one counts for half.";
export const noTablesYetMake = "No tables yet. Make one below.";
export const inA = (machine: string) => `In a ${machine}`;
export const theControllerSOwn = "The controller’s own";
export const inAWithMachine = (machine: string) => `in a ${machine}`;
export const codesTheControllerSOwn = "the controller’s own";
export const saveAsCsv = "Save as CSV";
export const makeOrImportA = "Make or import a table";
export const pickThePartsFrom =
  "Pick the parts from lists, or bring a CSV with the head “code, meaning, faults” and the faults in plain words: 3, Motor circuit open, drive motor: worn brushes | motor connector: open";
export const controller = "Controller";
export const controllerAsItIs = "Controller, as it is called here";
export const machineType = "Machine type";
export const machineTypeEmptyFor = "Machine type, empty for its own";
export const circuit = "Circuit";
export const pickItsCodes = "Pick its codes";
export const chooseACsvFile = "Choose a CSV file";
