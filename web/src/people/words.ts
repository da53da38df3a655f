// Shift.tsx
export const whoAreYou = (device: string) => `Who are you? ${device}`;
export const shiftWhoAreYou = "Who are you?";
export const yourPin = (whom: string) => `${whom}, your PIN`;
export const goOnAs = (whom: string) => `Go on as ${whom}`;
export const somebodyElse = "Somebody else";

// NewPassword.tsx
export const newPassword = "New password";
export const toGo = (left: number) => `, ${left} to go`;
export const atLeast10Letters = (text: string) =>
  `At least 10 letters${text}. Three words that do not belong together are good.`;
export const longEnoughKeepIt = "Long enough. Keep it to yourself.";

// Join.tsx
export const oneMoment = "One moment …";
export const toTheSignIn = "To the sign-in";
export const welcome = "Welcome,";
export const chooseAPasswordFrom = ". Choose a password; from then on you sign in as";
export const keepItAndOpen = "Keep it and open";

// SetUp.tsx
export const setThisWorkshopUp = "Set this workshop up";
export const onceByWhoeverAnswers = "Once, by whoever answers for it. Everything here can be changed later.";
export const code = "Code";
export const exampleCode = "ABCD-2345";
export const itStandsWhereThe =
  "It stands where the application was started, so that nobody else on the network takes this place.";
export const theWorkshop = "The workshop";
export const youItsOwner = "You, its owner";
export const yourNameAsOn = "Your name, as on papers";
export const shortNameToSign = "Short name to sign in with";
export const setUpAndOpen = "Set up and open";
export const noConnectionToThe = "No connection to the workshop's server. Nothing was changed: try again.";
export const tryAgain = "Try again.";
export const orPutABackup = "Or put a backup back";
export const jobsAndPeopleAre = (jobs: number, people: number) =>
  `✓ ${jobs} jobs and ${people} people are here again. Everybody signs in as before.`;
export const allOfAWorkshop =
  "All of a workshop’s data from one file, instead of a new workshop. The code above is needed.";
export const chooseTheBackup = "Choose the backup";
export const backupFile = "Backup file";

// People.tsx
export const people = "People";
export const whoWorksHere = "Who works here";
export const whatEachRoleMay = "What each role may do";
export const name = "Name";
export const signsInAs = (login: string) => `signs in as ${login}`;
export const roleOf = (name: string) => `Role of ${name}`;
export const suspended = "suspended";
export const hasChosenNoPassword = "has chosen no password yet";
export const lastHere = (seenat: string) => `last here ${seenat}`;
export const notSignedIn = "not signed in";
export const keep = "Keep";
export const rename = "Rename";
export const signInLink = "Sign-in link";
export const letInAgain = "Let in again";
export const suspend = "Suspend";
export const signInLinkFor = (name: string) => `Sign-in link for ${name}`;
export const pointsAPhoneS = (name: string) =>
  `${name} points a phone’s camera here, or opens this address, and chooses a password. It works once, until`;
export const copied = "✓ Copied";
export const copyTheAddress = "Copy the address";
export const done = "Done";
export const addAPerson = "Add a person";
export const nameAsOnPapers = "Name, as on papers";
export const peopleSignsInAs = "Signs in as";
export const role = "Role";
export const addAndShowThe = "Add and show the link";
export const sharedDevices = "Shared devices";
export const onATabletThat =
  "On a tablet that several people use, each signs in by name and PIN. Each person sets a PIN under “You”.";
export const admittedBy = (by: string, since: string) => `admitted by ${by}, ${since}`;
export const takeBack = "Take back";
export const thisDeviceIs = "This device is";
export const nameOfTheDevice = "Name of the device in your hand";
export const tabletAtTheLift = "Tablet at the lift";
export const admitThisDevice = "Admit this device";
export const record = "Record";
export const nothingYetWhatIs =
  "Nothing yet. What is done to people, settings and signed papers stands here.";
export const all = (n: number) => `All ${n}`;

// You.tsx
export const you = "You";
export const howYouLikeIt = "How you like it";
export const darkView = "Dark view";
export const keypadForTheLeft = "Keypad for the left hand";
export const text = "Text";
export const normal = "normal";
export const large = "large";
export const larger = "larger";
export const asOnPapers = "As on papers";
export const apprentice = "apprentice";
export const youSignInAs = (login: string, role: string) => `You sign in as ${login}; you are ${role}.`;
export const keepTheName = "Keep the name";
export const kept = "✓ Kept";
export const password = "Password";
export const yourPasswordNow = "Your password now";
export const changedEverywhereElseYou = "✓ Changed. Everywhere else you are signed out.";
export const changeThePassword = "Change the password";
export const pinForSharedDevices = "PIN for shared devices";
export const youHaveOne = "You have one.";
export const youHaveNone = "You have none.";
export const withItYouSign = (haspin: string) =>
  `${haspin} With it you sign in on a tablet that the owner admitted.`;
export const pin4To8 = "PIN, 4 to 8 digits";
export const yourPassword = "Your password";
export const keepThePin = "Keep the PIN";
export const takeItAway = "Take it away";
export const codeAtSignIn = "Code at sign-in";
export const ownersNeedOne = "This workshop asks its owners for one.";
export const besideThePassword =
  "Beside the password, a code from an authenticator app on your phone. Whoever learns your password does not get in with it alone. Good for owners.";
export const codeIsAskedFor =
  "Your phone’s code is asked for when you sign in. PINs on shared devices do not let you in meanwhile.";
export const setItUp = "Set it up";
export const askNoMore = "Ask for it no more";
export const scanItWith =
  "Scan this with the authenticator app on your phone, or type these letters into it.";
export const codeItShows = "The code it shows now";
export const askForIt = "Ask for it from now on";
export const leaveItAsItIs = "Leave it as it is";
export const codeNoMore = "✓ No code is asked for any more.";
export const spareCodes = "Spare codes";
export const eachCountsOnce =
  "Write these down and keep them away from the phone: each lets you in once when the phone is not at hand. They are not shown again.";
export const iHaveThem = "I have them";
export const whereYouAreSigned = "Where you are signed in";
export const here = " (here)";
export const lastUsed = (seenat: string) => `last used ${seenat}`;
export const signOutThere = "Sign out there";
export const product = "Corriente";

// SignIn.tsx
export const whatWasTypedIs = "What was typed is still here. ";
export const withNameAndPassword = "with name and password";
export const youWereSignedOut = "You were signed out. What you typed is still here: sign in and go on.";
export const whyDoesTheMotor = "Why does the motor not do its work? Sign in to find out.";
export const codeFromYourPhone = "Code from your phone";
export const noPhoneAtHand =
  "The phone is not at hand? A spare code counts too. Neither? Ask for a new sign-in link.";
export const signIn = "Sign in";
