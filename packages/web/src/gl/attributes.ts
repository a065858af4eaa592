/** Where each attribute of a vertex is bound; colours are white where a mesh has none (see Renderer). */
export const ATTRIBUTES = { position: 0, uv: 1, normal: 2, tangent: 3, color: 4 } as const;
