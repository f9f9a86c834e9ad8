/** What the sign-in says to whoever cannot get in. */
export const SIGN_IN = {
  forgotten: "Forgotten your password? Ask your supervisor for a new invitation. The firm’s jobs are safe.",
  code: "Code from your app",
  lostPhone: "Lost your phone? Use one of your recovery codes.",
  name: "Name",
  password: "Password",
  mellowSpan: "Mellow Span",
  designEachCircuit:
    "Design each circuit span by span, see which metre limits it, and trace every figure to its table.",
  designAidOnly:
    "A design aid only. It does not replace the regulations, makers' data, inspection, testing or a competent, registered person; local codes and notification duties decide. A pass means only that a circuit meets these checks with these inputs.",
} as const;
