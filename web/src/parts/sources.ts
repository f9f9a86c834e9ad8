import type { Supply } from "../api/types";

/** Where a value of the survey comes from, the surest first. */
export const SOURCES: Supply["ze_source"][] = ["measured", "declared", "assumed"];
