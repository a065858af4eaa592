import { addressOf, api, meshAddress, type Project, type Recipe, type SetBody, type Source } from '../api/client.ts';
import { isBaked, type BakedRecipe } from './usage.ts';
import { isShape } from './mesh-data.ts';
import { withOverlays } from './set-edits.ts';
import { pixels } from '../workers/pixels.ts';

/** What `project.json` in a project's zip holds. Paths are those of the zip. */
interface Listing {
  readonly estela: 1;
  readonly name: string;
  readonly notes: string;
  readonly materials: readonly { readonly file: string }[];
  readonly sources: readonly { readonly file: string; readonly name: string; readonly recipe: ZipRecipe | null }[];
  readonly meshes: readonly { readonly file: string; readonly name: string }[];
  /** Their things name materials and meshes by their files. */
  readonly sets: readonly SetBody[];
}
/** A recipe that names the material that it was baked from by its file. */
type ZipRecipe =
  | Exclude<Recipe, BakedRecipe>
  | (Omit<Extract<Recipe, { kind: 'step' }>, 'materialId'> & { readonly material: string })
  | (Omit<Extract<Recipe, { kind: 'bake' }>, 'materialId'> & { readonly material: string });

/** Most bytes a project may unpack to. */
const UNPACKED_LIMIT = 1024 * 2 ** 20;

const slug = (title: string): string =>
  title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || 'untitled';

/** A path that is not taken, by a number before its ending. */
function freePath(taken: Set<string>, folder: string, stem: string, ending: string): string {
  let path = `${folder}/${stem}${ending}`;
  for (let i = 2; taken.has(path); i++) path = `${folder}/${stem}-${String(i)}${ending}`;
  taken.add(path);
  return path;
}

/** A project as one zip: materials as Wake texts, images as the files they came as, the rest in `project.json`. */
export async function zipOf(project: Project): Promise<Blob> {
  const [materials, sources, meshes, sets] = await Promise.all([
    api.materials(project.id),
    api.sources(project.id),
    api.meshes(project.id),
    api.sets(project.id),
  ]);
  const taken = new Set<string>();
  const files = new Map<string, Uint8Array<ArrayBuffer>>();
  const text = new TextEncoder();
  const paths = new Map(materials.map((m) => [m.id, freePath(taken, 'materials', slug(m.title), '.wake')]));
  for (const m of materials) files.set(paths.get(m.id) ?? '', text.encode(m.text));
  const bytesAt = async (address: string, what: string): Promise<Uint8Array<ArrayBuffer>> => {
    const response = await fetch(address);
    if (!response.ok) throw new Error(`The ${what} cannot be read.`);
    return new Uint8Array(await response.arrayBuffer());
  };
  const listed = [];
  for (const source of sources) {
    const ending = /\.[A-Za-z0-9]+$/.exec(source.name)?.[0] ?? `.${source.mime.split('/')[1] ?? 'png'}`;
    const file = freePath(taken, 'sources', slug(source.name.replace(/\.[^.]*$/, '')), ending);
    files.set(file, await bytesAt(addressOf(source), `source ${source.name}`));
    listed.push({ file, name: source.name, recipe: recipeForZip(source, paths) });
  }
  const meshPaths = new Map(meshes.map((m) => [m.id, freePath(taken, 'meshes', slug(m.name), '.glb')]));
  for (const mesh of meshes)
    files.set(meshPaths.get(mesh.id) ?? '', await bytesAt(meshAddress(mesh), `mesh ${mesh.name}`));
  const listing: Listing = {
    estela: 1,
    name: project.name,
    notes: project.notes,
    materials: [...paths.values()].map((file) => ({ file })),
    sources: listed,
    meshes: meshes.map(({ id, name }) => ({ file: meshPaths.get(id) ?? '', name })),
    sets: sets.map((set) => renamed(set, meshPaths, paths)),
  };
  files.set('project.json', text.encode(`${JSON.stringify(listing, undefined, 2)}\n`));
  return new Blob([await pixels('import').zip(files)], { type: 'application/zip' });
}

/**
 * A set whose things name their meshes and materials otherwise; shapes keep their names, and what is not known is left
 * out.
 */
function renamed(
  { name, items, scene, view }: SetBody,
  meshes: ReadonlyMap<string, string>,
  materials: ReadonlyMap<string, string>,
): SetBody {
  return {
    name,
    scene,
    view,
    items: items
      .filter((item) => isShape(item.mesh) || meshes.has(item.mesh))
      .map((item) => ({
        ...item,
        mesh: meshes.get(item.mesh) ?? item.mesh,
        material: (item.material !== null ? materials.get(item.material) : undefined) ?? null,
      })),
  };
}

function recipeForZip({ recipe }: Source, paths: ReadonlyMap<string, string>): ZipRecipe | null {
  if (!isBaked(recipe)) return recipe;
  const { materialId, ...rest } = recipe;
  const material = paths.get(materialId);
  // Baked from a material that is gone: a picture like any other.
  return material === undefined ? null : { ...rest, material };
}

const isRecord = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null;

/** What a zip says is in it. Throws where it is not all there. */
function listingOf(bytes: Uint8Array | undefined): Listing {
  if (!bytes) throw new Error('It has no project.json, so it is not an Estela project.');
  let listing: Partial<Listing>;
  try {
    const read: unknown = JSON.parse(new TextDecoder().decode(bytes));
    if (!isRecord(read)) throw new SyntaxError();
    listing = read;
  } catch {
    throw new Error('Its project.json cannot be read.');
  }
  const { estela, name, materials, sources } = listing;
  if (estela !== 1) throw new Error('Its project.json has a version that this Estela does not know.');
  if (typeof name !== 'string' || !Array.isArray(materials) || !Array.isArray(sources))
    throw new Error('Its project.json lacks a name, materials or sources.');
  const { meshes = [], sets = [] } = listing;
  if (!Array.isArray(meshes) || !Array.isArray(sets))
    throw new Error('The meshes or sets of its project.json cannot be read.');
  for (const [what, list, keys] of [
    ['material', materials, ['file']],
    ['source', sources, ['file', 'name']],
    ['mesh', meshes, ['file', 'name']],
    ['set', sets, ['name']],
  ] as const)
    for (const part of list)
      if (!isRecord(part) || keys.some((key) => typeof part[key] !== 'string'))
        throw new Error(`A ${what} in its project.json lacks its ${keys.join(' or ')}.`);
  for (const { items } of sets)
    if (!Array.isArray(items) || !items.every((item) => isRecord(item) && typeof item.mesh === 'string'))
      throw new Error('A set in its project.json lacks its items.');
  return {
    estela,
    name,
    notes: typeof listing.notes === 'string' ? listing.notes : '',
    materials,
    sources: (sources as Listing['sources']).map((source) => ({ ...source, recipe: withMethod(source.recipe) })),
    meshes,
    sets: sets.map(withOverlays),
  };
}

/** A recipe that may be as it was exported before a `method` was called that. */
function withMethod(recipe: ZipRecipe | null): ZipRecipe | null {
  if (recipe?.kind !== 'tile') return recipe;
  const { way, ...rest } = recipe as typeof recipe & { readonly way?: typeof recipe.method };
  return way === undefined ? recipe : { ...rest, method: way };
}

/** Makes a new project of a zip; nothing is left behind where it is refused on the way. */
export async function projectFromZip(file: File): Promise<Project> {
  let files: ReadonlyMap<string, Uint8Array<ArrayBuffer>>;
  try {
    files = await pixels('import').unzip(new Uint8Array(await file.arrayBuffer()), UNPACKED_LIMIT);
  } catch (error) {
    throw new Error(
      `${file.name} cannot be opened: ${error instanceof Error && error.message.startsWith('It unpacks') ? error.message : 'it is not a zip, or it is broken.'}`,
      { cause: error },
    );
  }
  const listing = listingOf(files.get('project.json'));
  const content = (path: string): Uint8Array<ArrayBuffer> => {
    const bytes = files.get(path);
    if (!bytes) throw new Error(`${path} is listed but missing from the zip.`);
    return bytes;
  };
  const project = await api.createProject(listing.name);
  try {
    if (listing.notes !== '') await api.changeProject(project, { notes: listing.notes });
    const ids = new Map<string, string>();
    for (const { file: path } of listing.materials)
      ids.set(path, (await api.createMaterial(project.id, new TextDecoder().decode(content(path)))).id);
    for (const { file: path, name, recipe } of listing.sources) {
      const made = recipe && 'material' in recipe ? bakedRecipe(recipe, ids) : recipe;
      await api.createSource(project.id, { name, file: new Blob([content(path)]), recipe: made });
    }
    const meshIds = new Map<string, string>();
    for (const { file: path, name } of listing.meshes)
      meshIds.set(path, (await api.createMesh(project.id, { name, file: new Blob([content(path)]) })).id);
    for (const set of listing.sets) await api.createSet(project.id, renamed(set, meshIds, ids));
    return project;
  } catch (error) {
    // Where the server is away, half of it stays; that is no reason to say anything else.
    await api
      .project(project.id)
      .then(api.deleteProject)
      .catch(() => undefined);
    throw error;
  }
}

function bakedRecipe(
  { material, ...rest }: Extract<ZipRecipe, { readonly material: string }>,
  ids: ReadonlyMap<string, string>,
): Recipe | null {
  const materialId = ids.get(material);
  return materialId === undefined ? null : { ...rest, materialId };
}

/** Hands a file to the browser's downloads. */
export function download(blob: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => {
    URL.revokeObjectURL(link.href);
  }, 10_000);
}
