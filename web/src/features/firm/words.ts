export const FIRM_EVENTS = {
  activity: "Activity",
  signInsFiles: "Sign-ins, files saved, deletions, members and links; kept for two years.",
} as const;

export const FIRM = {
  key: "Key for revisions",
  keySay:
    "Every revision is sealed with it. It is printed on each document: whoever gets a file can check against it that the file was made here.",
  openingFirm: "Opening the firm …",
  supervisorInvitesPeople: "A supervisor invites people by a link that works once; nobody can join by name.",
  members: "Members",
  handOver: "hand over to …",
  invitedNotJoined: "Invited, not joined yet",
  invitations: "Invitations",
  withdraw: "withdraw it",
  leaveFirm: "Leave this firm?",
  nameFirm: "Name of the firm",
  inviteSomebody: "Invite somebody",
  theirNameShown: "their name, as shown in the history",
  rolePersonInvited: "Role of the person invited",
  makeLink: "make the link",
  wayBack: "new sign-in link",
  wayBackSay:
    "For a lost password or phone: they set a new password by it, every device is signed out, and two-step sign-in is off until they turn it on again.",
  former: "Former members",
  formerSay:
    "They come back under the name they had, by a link you send them, or by an invitation and the password they know.",
  inviteAgain: "invite again",
} as const;

export const JOIN = {
  oneMoment: "One moment …",
  mellowSpan: "Mellow Span",
  invitationHasBeen: "This invitation has been used, withdrawn or has expired. Ask for a new one.",
  joinUnderAnother: "join under another name",
  nameSign: "a name to sign in with",
  password10Characters: "a password, 10 characters or more",
  alreadyHaveAccount: "Already have an account? Enter its name and password here.",
  code: "the code from your app, or a recovery code",
  newPassword: "new password, 10 characters or more",
  setIt: "set it and sign in",
} as const;

export const YOU = {
  account: "Your account",
  password: "Password",
  new10Characters: "new, 10 characters or more",
  change: "change it",
  changedEveryOther: "Changed. Every other device is signed out.",
  twoStepSign: "Two-step sign-in",
  wellPasswordEnter:
    "As well as the password you enter a code from an app on your phone, new every half minute. A stolen password alone is then useless.",
  turn: "turn it on …",
  secretAppScanned: "The secret for the app, to be scanned",
  scanAuthenticatorApp: "Scan it with an authenticator app, or type in this key:",
  turn2: "turn it on",
  turnOff: "turn it off",
  recoveryCodesEach:
    "Recovery codes, each usable once, for when the phone is lost. They are shown only now: write them down.",
  devices: "Devices",
  whereSigned: "Where you are signed in",
  deviceSignedOut:
    "A device is signed out after a week unused, and after 30 days at most. Unsent work stays in its browser.",
  device: "this device",
  signOut: "sign it out",
} as const;

/** Asked before what cannot be taken back. */
export const ASKED = {
  remove: {
    title: (name: string) => `Remove ${name}?`,
    say: "They lose access at once. What they did stays in the history under their name.",
  },
  leave: {
    title: () => "Leave this firm?",
    say: "You lose access at once. Your work stays with the firm. You need a new invitation to return.",
  },
  "hand over": {
    title: (name: string) => `Hand the firm over to ${name}?`,
    say: "They become supervisor in your place; you become a designer and cannot reverse this yourself.",
  },
};

export const WORKS_HERE = {
  head: "Without a signal",
  say: "This device can work jobs out by itself. It downloads about 5 MB once, when a job is open and nothing else is going on; after that every figure is there without a signal, and is marked until the server confirms it.",
  off: "Switched off on this device: without a signal, figures stay as last received.",
  asleep: "Not loaded yet: it loads once a job has been open for a few seconds.",
  loading: "Loading:",
  ready: "Ready: jobs opened on this device are worked out without a signal.",
  old: "This page works by earlier rules than the server. Reload it.",
  failed: "It could not be loaded. It is tried again when it is needed.",
  turnOff: "switch it off on this device",
  turnOn: "switch it on",
  loadNow: "load it now",
} as const;
