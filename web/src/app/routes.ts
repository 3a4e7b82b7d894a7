/**
 * The one list of screens: their address, their file among the features (`….screen.tsx`), and what each asks the server
 * for first. The page shell reads it too, from the manifest of the build, and has the browser ask for both early.
 */
export interface ScreenRoute {
  path: string;
  screen: string;
  /** Addresses of the API, with the parameters of `path`; asked for with the page itself. */
  asks?: readonly string[];
  /** Only for those who teach: a student's device does not keep its code for the time without a network. */
  staffOnly?: boolean;
}

export const ROUTES: readonly ScreenRoute[] = [
  { path: "/", screen: "my-folios/MyFolios", asks: ["/api/me", "/api/my-folios"] },
  { path: "/assignments/:assignmentId", screen: "brief/Brief" },
  { path: "/folios/:folioId", screen: "board/Board", asks: ["/api/me", "/api/folios/:folioId"] },
  { path: "/folios/:folioId/check", screen: "check/Check" },
  { path: "/folios/:folioId/editions/:number", screen: "receipt/Receipt" },
  { path: "/folios/:folioId/editions/:number/compared/:other", screen: "compare/Compare" },
  { path: "/folios/:folioId/editions/:number/pages", screen: "receipt/HandedIn" },
  { path: "/reading/:assignmentId", screen: "staff/FolioList", staffOnly: true },
  { path: "/reading/:assignmentId/:folioId/:number", screen: "reading/Reading", staffOnly: true },
  { path: "/marking/:assignmentId", screen: "marking/Marking", asks: ["/api/me"], staffOnly: true },
  { path: "/marking/:assignmentId/:folioId", screen: "marking/Marking", staffOnly: true },
  { path: "/giving-back/:assignmentId", screen: "giving-back/GivingBack", staffOnly: true },
  { path: "/folios/:folioId/returned", screen: "returned/Returned" },
  { path: "/records/:folioId", screen: "staff/SittingRecord", staffOnly: true },
  { path: "/question-maps/:assignmentId", screen: "setting-up/QuestionMap", staffOnly: true },
  { path: "/courses/:courseId", screen: "courses/Course", staffOnly: true },
  { path: "/departments/:departmentId", screen: "department/Department", staffOnly: true },
  { path: "/setting-up/:assignmentId", screen: "setting-up/SettingUp", staffOnly: true },
  { path: "/sittings/:assignmentId", screen: "sitting/Sitting", staffOnly: true },
  { path: "/join/:code", screen: "joining/Join" },
  { path: "/shared", screen: "sharing/Shared" },
  { path: "/notices", screen: "notices/Notices" },
  { path: "/account", screen: "account/Account" },
];

/** Screens that need no account. */
export const SIGN_IN = "account/SignIn";
export const WITHOUT_ACCOUNT: readonly ScreenRoute[] = [
  { path: "/camera", screen: "camera/Camera" },
  { path: "/camera/:letters", screen: "camera/Camera" },
  { path: "/password", screen: "account/AskLink" },
  { path: "/password/:person/:token", screen: "account/SetPassword" },
  { path: "/no-more-mail/:token", screen: "account/NoMoreMail" },
  { path: "/check-receipt", screen: "receipt-check/ReceiptCheck" },
  { path: "/post-box", screen: "account/PostBox" },
];
