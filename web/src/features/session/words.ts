/** What the sign-in says to whoever cannot get in. */
export const SIGN_IN = {
  forgotten: "Forgotten your password? Ask your supervisor for a new invitation. The firm’s jobs are safe.",
  code: "Code from your app",
  lostPhone: "Lost your phone? Use one of your recovery codes.",
} as const;
