// sync.ts
export const thisJobWasNot =
  "This job was not opened here before: it can be read once the connection is back.";

// Needs.tsx
export const whenTheConnectionIs = (what: string) => `${what} when the connection is back.`;
