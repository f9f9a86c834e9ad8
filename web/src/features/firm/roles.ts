import type { Role } from "../../api/client";

/** What each role may do, as it is told. */
export const ROLES: Record<Role, string> = {
  supervisor: "everything: also members, what happened, and signing",
  designer: "designs, edits, takes proposals over, makes links for clients",
  apprentice: "looks at everything and proposes; a designer takes a proposal over",
};
