import { configure } from "@testing-library/dom";
import { limit } from "./patience";

configure({ asyncUtilTimeout: limit });
