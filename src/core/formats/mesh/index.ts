export type { Geometry } from './geometry';
export { isMeshKind, MESH_FORMATS, openMesh, readGeometry, type MeshAsked, type MeshKind } from './read';
