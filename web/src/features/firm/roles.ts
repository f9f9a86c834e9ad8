import type { Role } from "../../api/client";

/** What each role may do, as it is told. */
export const ROLES: Record<Role, string> = {
  supervisor: "everything: also members, what happened, and signing",
  designer: "designs, edits, accepts proposals, makes client links",
  apprentice: "sees everything and proposes changes; a designer accepts them",
};
