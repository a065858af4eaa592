import Joi from 'joi';
import { bakeAnswer, bakeBody } from './bakes.ts';
import { exportQuery, exportsQuery } from './exports.ts';
import { healthAnswer } from './health.ts';
import { materialAnswer, materialBody, revisionAnswer, revisionBody, revisionNumber } from './materials.ts';
import { changedMesh, meshAnswer, newMesh } from './meshes.ts';
import { identifier } from './object.ts';
import { pageQuery } from './pages.ts';
import { changedProject, newProject, projectAnswer } from './projects.ts';
import { setAnswer, setBody } from './sets.ts';
import { changedSource, newSource, sourceAnswer } from './sources.ts';
import { startAnswer, startBody, startImageName, startName } from './starts.ts';

/** One call of the API: what it takes, what it answers, and why it may refuse. */
export interface Operation {
  /** Its name, for clients that are made from its description. */
  readonly name: string;
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  /** With names of PARAMETERS in braces. */
  readonly path: string;
  /** In a sentence. */
  readonly does: string;
  readonly query?: Joi.ObjectSchema;
  readonly body?: Joi.ObjectSchema;
  /** The body is a form that may bring a file of its own, `file`. */
  readonly file?: string;
  /** Changes only what still is as it was read, by `If-Match`. */
  readonly match?: boolean;
  /** Of its success. */
  readonly status: number;
  /** What it answers with: a schema, or the media type of bytes. */
  readonly answer?: Joi.Schema | string;
  /** Answers in pages, with a `Link` to the next. */
  readonly paged?: boolean;
  /** Answers with an ETag, and `Location` where it made something. */
  readonly tagged?: boolean;
  /** Its bytes are known by their hash: they may be kept, and asked for in ranges. */
  readonly ranged?: boolean;
  /** Statuses of refusals beside those that its parts bring. */
  readonly refuses?: readonly number[];
  /** A body that it takes. */
  readonly example?: object;
}

/** What stands in braces in paths. */
export const PARAMETERS: Readonly<Record<string, Joi.Schema>> = {
  projectId: identifier,
  materialId: identifier,
  sourceId: identifier,
  meshId: identifier,
  setId: identifier,
  bakeId: identifier,
  number: revisionNumber.example(1),
  start: startName.example('ember-cloud'),
  picture: startImageName.example('mist-a.png'),
};

const list = (items: Joi.Schema): Joi.ArraySchema => Joi.array().items(items);
const IMAGE = 'An image: PNG, JPEG, WebP, TGA or GIF.';
const MESH = 'A mesh: GLB.';
const SET = {
  name: 'Vent over the basin',
  items: [
    {
      id: 'vent',
      mesh: 'tube',
      subdivisions: null,
      material: null,
      variant: null,
      position: [0, 0.5, 0],
      turn: [0, 90, 0],
      scale: 1,
      copies: { kind: 'row', count: 3, step: [1.5, 0, 0] },
      turning: 0,
      delay: 0,
      film: false,
    },
  ],
  scene: { environment: 'greenhouse', backdrop: 'grey', exposure: 0 },
  view: null,
};
const RECIPE = {
  kind: 'path',
  drawing: { points: [{ x: 0.2, y: 0.5, width: 0.1 }], closed: false, size: 256 },
};
const TEXT =
  'material "Drifting haze"\nloop 4s at 30fps\n\nhaze = uv |> pan(1 laps, heading: 90deg) |> fbm(4)\nout color = haze\n';

/** The list, the making, the reading, the change and the deletion of the things of a project. */
const things = (
  one: string,
  [folder, id]: readonly [folder: string, id: string],
  answer: Joi.Schema,
  makes: Pick<Operation, 'body' | 'file' | 'example' | 'refuses'>,
  changes: Pick<Operation, 'method' | 'body' | 'file' | 'example' | 'refuses'>,
): readonly Operation[] => {
  const own = `/api/${folder}/{${id}}`;
  const all = `/api/projects/{projectId}/${folder}`;
  const Name = one[0]!.toUpperCase() + one.slice(1);
  return [
    {
      name: `list${Name}${one.endsWith('h') ? 'es' : 's'}`,
      method: 'get',
      path: all,
      does: `Lists the ${folder} of a project.`,
      query: pageQuery,
      status: 200,
      answer: list(answer),
      paged: true,
    },
    {
      name: `create${Name}`,
      method: 'post',
      path: all,
      does: `Makes a ${one}.`,
      status: 201,
      answer,
      tagged: true,
      ...makes,
    },
    { name: `read${Name}`, method: 'get', path: own, does: `Reads a ${one}.`, status: 200, answer, tagged: true },
    {
      name: `change${Name}`,
      path: own,
      does: `Changes a ${one}; what is stored already can be sent again.`,
      match: true,
      status: 200,
      answer,
      tagged: true,
      ...changes,
    },
    { name: `delete${Name}`, method: 'delete', path: own, does: `Deletes a ${one}.`, match: true, status: 204 },
  ];
};

/** Every call of the API, once. */
export const OPERATIONS: readonly Operation[] = [
  {
    name: 'readHealth',
    method: 'get',
    path: '/api/health',
    does: 'Tells whether the server can work; it needs no token.',
    status: 200,
    answer: healthAnswer,
  },
  {
    name: 'listProjects',
    method: 'get',
    path: '/api/projects',
    does: 'Lists the projects.',
    query: pageQuery,
    status: 200,
    answer: list(projectAnswer),
    paged: true,
  },
  {
    name: 'createProject',
    method: 'post',
    path: '/api/projects',
    does: 'Makes a project.',
    body: newProject,
    example: { name: 'Glasshouse Ten', notes: 'Vents and basins.' },
    status: 201,
    answer: projectAnswer,
    tagged: true,
  },
  {
    name: 'readProject',
    method: 'get',
    path: '/api/projects/{projectId}',
    does: 'Reads a project.',
    status: 200,
    answer: projectAnswer,
    tagged: true,
  },
  {
    name: 'changeProject',
    method: 'patch',
    path: '/api/projects/{projectId}',
    does: 'Changes the name or the notes of a project.',
    body: changedProject,
    example: { notes: 'Vents, basins and haze.' },
    match: true,
    status: 200,
    answer: projectAnswer,
    tagged: true,
  },
  ...things(
    'material',
    ['materials', 'materialId'],
    materialAnswer,
    { body: materialBody, example: { text: TEXT } },
    { method: 'put', body: materialBody, example: { text: TEXT.replace('fbm(4)', 'fbm(6)') } },
  ),
  {
    name: 'restoreMaterial',
    method: 'post',
    path: '/api/materials/{materialId}/restore',
    does: 'Brings a material back that was deleted within a week, with its revisions.',
    status: 200,
    answer: materialAnswer,
    refuses: [507],
  },
  {
    name: 'listRevisions',
    method: 'get',
    path: '/api/materials/{materialId}/revisions',
    does: 'Lists the kept revisions of a material, without their texts.',
    status: 200,
    answer: list(revisionAnswer),
  },
  {
    name: 'readRevision',
    method: 'get',
    path: '/api/materials/{materialId}/revisions/{number}',
    does: 'Reads a revision of a material, with its text.',
    status: 200,
    answer: revisionAnswer,
  },
  {
    name: 'nameRevision',
    method: 'patch',
    path: '/api/materials/{materialId}/revisions/{number}',
    does: 'Names a revision, so that it is kept; an empty name takes it away.',
    body: revisionBody,
    example: { name: 'as shown on Monday' },
    status: 200,
    answer: revisionAnswer,
  },
  ...things(
    'source',
    ['sources', 'sourceId'],
    sourceAnswer,
    { body: newSource, file: IMAGE, example: { name: 'haze.png', recipe: RECIPE }, refuses: [409, 422] },
    { method: 'put', body: changedSource, file: IMAGE, example: { name: 'thin-haze.png' }, refuses: [409, 422] },
  ),
  {
    name: 'readSourceFile',
    method: 'get',
    path: '/api/sources/{sourceId}/content',
    does: "Reads a source's file; with `?v=` and the first letters of its hash it may be kept for ever.",
    status: 200,
    answer: 'image/*',
    ranged: true,
  },
  ...things(
    'mesh',
    ['meshes', 'meshId'],
    meshAnswer,
    { body: newMesh, file: MESH, example: { name: 'vent' }, refuses: [409, 422] },
    { method: 'put', body: changedMesh, file: MESH, example: { name: 'wide vent' }, refuses: [409, 422] },
  ),
  {
    name: 'readMeshFile',
    method: 'get',
    path: '/api/meshes/{meshId}/content',
    does: "Reads a mesh's GLB; with `?v=` and the first letters of its hash it may be kept for ever.",
    status: 200,
    answer: 'model/gltf-binary',
    ranged: true,
  },
  ...things(
    'set',
    ['sets', 'setId'],
    setAnswer,
    { body: setBody, example: SET, refuses: [409] },
    { method: 'put', body: setBody, example: { ...SET, name: 'Vent by night' }, refuses: [409] },
  ),
  {
    name: 'followProject',
    method: 'get',
    path: '/api/projects/{projectId}/events',
    does: 'Follows what changes in a project, as server-sent events; `Last-Event-ID` goes on where one broke off.',
    status: 200,
    answer: 'text/event-stream',
    refuses: [503],
  },
  {
    name: 'followAll',
    method: 'get',
    path: '/api/events',
    does: 'Follows what changes in all projects, as server-sent events.',
    status: 200,
    answer: 'text/event-stream',
    refuses: [503],
  },
  {
    name: 'exportMaterial',
    method: 'get',
    path: '/api/materials/{materialId}/export.zip',
    does: 'Writes a material as a package of shader code, textures and a manifest.',
    query: exportQuery,
    status: 200,
    answer: 'application/zip',
    refuses: [422],
  },
  {
    name: 'exportMaterials',
    method: 'get',
    path: '/api/projects/{projectId}/export.zip',
    does: 'Writes several materials of a project as packages, a folder each.',
    query: exportsQuery,
    status: 200,
    answer: 'application/zip',
    refuses: [422],
  },
  {
    name: 'playMaterial',
    method: 'get',
    path: '/api/materials/{materialId}/export/index.html',
    does: 'The page of a package, which plays the material.',
    query: exportQuery.unknown(),
    status: 200,
    answer: 'text/html',
    refuses: [422],
  },
  {
    name: 'createBake',
    method: 'post',
    path: '/api/materials/{materialId}/bakes',
    does: 'Bakes frames of a material as it is saved now: a sheet, a sequence, or a PNG that moves.',
    body: bakeBody,
    example: { format: 'sheet', size: [16, 16], frames: { count: 4 }, columns: 2 },
    status: 202,
    answer: bakeAnswer,
    refuses: [422],
  },
  {
    name: 'listBakes',
    method: 'get',
    path: '/api/projects/{projectId}/bakes',
    does: 'Lists the bakes of a project.',
    query: pageQuery,
    status: 200,
    answer: list(bakeAnswer),
    paged: true,
  },
  {
    name: 'readBake',
    method: 'get',
    path: '/api/bakes/{bakeId}',
    does: 'Reads a bake: how far it is, or what came of it.',
    status: 200,
    answer: bakeAnswer,
  },
  {
    name: 'retryBake',
    method: 'post',
    path: '/api/bakes/{bakeId}/retry',
    does: 'Goes on with a bake that failed or was cancelled, from what is computed.',
    status: 202,
    answer: bakeAnswer,
  },
  {
    name: 'readBakeFile',
    method: 'get',
    path: '/api/bakes/{bakeId}/file',
    does: 'Reads the result of a bake: a PNG, or a zip of several.',
    status: 200,
    answer: '*/*',
    ranged: true,
    refuses: [409],
  },
  {
    name: 'readBakeManifest',
    method: 'get',
    path: '/api/bakes/{bakeId}/manifest.json',
    does: 'Reads what an engine must know of a bake: rectangles of its frames, rate, packing, memory.',
    status: 200,
    answer: Joi.object().unknown().meta({ className: 'BakeManifest' }),
    refuses: [422],
  },
  {
    name: 'readBakePicture',
    method: 'get',
    path: '/api/bakes/{bakeId}/picture',
    does: 'Reads a small picture of the first frame of a bake.',
    status: 200,
    answer: 'image/png',
  },
  {
    name: 'deleteBake',
    method: 'delete',
    path: '/api/bakes/{bakeId}',
    does: 'Cancels a bake that is queued or runs; deletes any other.',
    status: 204,
  },
  {
    name: 'listStarts',
    method: 'get',
    path: '/api/starts',
    does: 'Lists the small materials that a new one can begin from.',
    status: 200,
    answer: list(startAnswer),
  },
  {
    name: 'readStartPicture',
    method: 'get',
    path: '/api/starts/images/{picture}',
    does: 'Reads a picture that a start uses.',
    status: 200,
    answer: 'image/png',
  },
  {
    name: 'beginFromStart',
    method: 'post',
    path: '/api/projects/{projectId}/starts/{start}',
    does: 'Makes a material from a start, with its pictures.',
    body: startBody,
    example: { title: 'Torn haze' },
    status: 201,
    answer: materialAnswer,
    tagged: true,
  },
  {
    name: 'deleteProject',
    method: 'delete',
    path: '/api/projects/{projectId}',
    does: 'Deletes a project with all that is in it.',
    match: true,
    status: 204,
  },
];
