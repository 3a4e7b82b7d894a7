import { answer, api, type Schemas } from "../shared/api/client";
import { queryKeys } from "../shared/queryKeys";

/** Where the camera links of a board, or of work that is not begun, are asked for, made and ended. */
export interface CameraLinks {
  key: readonly unknown[];
  list: () => Promise<Schemas["CameraLinkOut"][]>;
  invite: () => Promise<Schemas["InvitationOut"]>;
  end: (link: number) => Promise<unknown>;
}

export function linksOfFolio(folioId: number): CameraLinks {
  const path = { folio_id: folioId };
  return {
    key: queryKeys.cameraLinks(folioId),
    list: () => answer(api.GET("/api/folios/{folio_id}/camera-links", { params: { path } })),
    invite: () => answer(api.POST("/api/folios/{folio_id}/camera-links", { params: { path } })),
    end: (link) => answer(api.DELETE("/api/folios/{folio_id}/camera-links/{link_id}", { params: { path: { ...path, link_id: link } } })),
  };
}

/** They gain their folio when the work is begun. */
export function linksOfAssignment(assignmentId: number): CameraLinks {
  const path = { assignment_id: assignmentId };
  return {
    key: queryKeys.linksBefore(assignmentId),
    list: async () => (await answer(api.GET("/api/assignments/{assignment_id}/get-ready", { params: { path } }))).links,
    invite: () => answer(api.POST("/api/assignments/{assignment_id}/camera-links", { params: { path } })),
    end: (link) => answer(api.DELETE("/api/assignments/{assignment_id}/camera-links/{link_id}", { params: { path: { ...path, link_id: link } } })),
  };
}
