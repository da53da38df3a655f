import { createContext } from "react";

/** What a page knows of the frame around it. */
export const FrameContext = createContext({ wide: true, openHouse: () => {} });
