/** Under which key each answer of the server is kept in the query cache. */
export const queryKeys = {
  me: ["me"],
  myFolios: ["my-folios"],
  calendar: ["calendar"],
  account: ["account"],
  keptFiles: (owner: string) => ["kept-files", owner],
  postBox: ["post-box"],
  brief: (assignmentId: number) => ["brief", assignmentId],
  board: (folioId: number) => ["board", folioId],
  draft: (folioId: number, ...made: unknown[]) => ["draft", folioId, ...made],
  cameraLinks: (folioId: number) => ["camera-links", folioId],
  camera: (secret: string) => ["camera", secret],
  receipt: (folioId: number, number: number) => ["receipt", folioId, number],
  reading: (folioId: number, number: number) => ["reading", folioId, number],
  folioList: (assignmentId: number) => ["folio-list", assignmentId],
  record: (folioId: number) => ["record", folioId],
  questionMap: (assignmentId: number) => ["question-map", assignmentId],
} as const;
