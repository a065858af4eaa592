// Words that nothing may be called, by language: its keywords, words it keeps for later, and, as local names would hide
// them, types and functions that emitted code uses.

const words = (text: string): ReadonlySet<string> => new Set(text.match(/\w+/g));

/** GLSL ES 3.00, 3.6 Keywords. */
const GLSL_KEYWORDS = words(`
  attribute const uniform varying layout centroid flat smooth break continue do for while switch case default if
  else in inout out float int uint void bool true false invariant discard return mat2 mat3 mat4 vec2 vec3 vec4 ivec2
  ivec3 ivec4 uvec2 uvec3 uvec4 bvec2 bvec3 bvec4 lowp mediump highp precision sampler2D sampler3D samplerCube
  struct common partition active asm class union enum typedef template this resource patch sample subroutine goto
  inline noinline volatile public static extern external interface long short double half fixed unsigned superp
  input output filter image1D image2D image3D sizeof cast namespace using noperspective coherent restrict readonly
  writeonly shared buffer atomic_uint row_major
`);
export const GLSL_WORDS = new Set([
  ...GLSL_KEYWORDS,
  ...words(`
  abs acos all any asin atan ceil clamp cos cross dFdx dFdy degrees distance dot equal exp exp2 floatBitsToInt
  floatBitsToUint floor fract fwidth greaterThan intBitsToFloat inverse inversesqrt isinf isnan length lessThan
  lessThanEqual log log2 main max min mix mod normalize not notEqual pow radians reflect refract round sign sin
  smoothstep sqrt step tan texture textureGrad transpose trunc uintBitsToFloat
  `),
]);

/** HLSL, Keywords and Reserved Words. */
const HLSL_KEYWORDS = words(`
  AppendStructuredBuffer asm asm_fragment BlendState bool break Buffer ByteAddressBuffer case cbuffer centroid
  class column_major compile compile_fragment CompileShader const continue ComputeShader ConsumeStructuredBuffer
  default DepthStencilState DepthStencilView discard do double DomainShader dword else export extern false float
  for fxgroup GeometryShader groupshared half Hullshader if in inline inout out InputPatch int interface line lineadj
  linear LineStream matrix min16float min10float min16int min12int min16uint namespace nointerpolation
  noperspective NULL OutputPatch packoffset pass pixelfragment PixelShader point PointStream precise
  RasterizerState RenderTargetView return register row_major RWBuffer RWByteAddressBuffer RWStructuredBuffer
  RWTexture1D RWTexture2D RWTexture3D sample sampler SamplerState SamplerComparisonState shared snorm stateblock
  stateblock_state static string struct switch StructuredBuffer tbuffer technique technique10 technique11 texture
  Texture1D Texture2D Texture3D TextureCube true typedef triangle triangleadj TriangleStream uint uniform unorm
  unsigned vector vertexfragment VertexShader void volatile while auto catch char const_cast delete dynamic_cast
  enum explicit friend goto long mutable new operator private protected public reinterpret_cast short signed
  sizeof static_cast template this throw try typename union using virtual float2 float3 float4 int2 int3 int4
  uint2 uint3 uint4 bool2 bool3 bool4 sampler1D sampler2D sampler3D samplerCUBE sampler_state
`);
export const HLSL_WORDS = new Set([
  ...HLSL_KEYWORDS,
  ...words(`
  abs asfloat asint asuint atan2 ceil clamp cos ddx ddy dot exp floor frac length lerp log main max min pow sign
  sin sqrt
  `),
]);

/** WGSL, 15.1 Keyword Summary and 15.2 Reserved Words. */
const WGSL_KEYWORDS = words(`
  alias break case const const_assert continue continuing default diagnostic discard else enable false fn for if
  let loop override partial requires return struct switch true var while NULL Self abstract active alignas alignof as asm
  asm_fragment async attribute auto await become cast catch class co_await co_return co_yield coherent
  column_major common compile compile_fragment concept const_cast consteval constexpr constinit crate debugger
  decltype delete demote demote_to_helper do dynamic_cast enum explicit export extends extern external fallthrough
  filter final finally friend from fxgroup get goto groupshared highp impl implements import inline instanceof
  interface layout lowp macro macro_rules match mediump meta mod module move mut mutable namespace new nil
  noexcept noinline nointerpolation non_coherent noncoherent noperspective null nullptr of operator package
  packoffset partition pass patch pixelfragment precise precision premerge priv protected pub public readonly ref
  regardless register reinterpret_cast require resource restrict self set shared sizeof smooth snorm static
  static_assert static_cast std subroutine super target template this thread_local throw trait try type typedef
  typeid typename typeof union unless unorm unsafe unsized use using varying virtual volatile wgsl where with
  writeonly yield bool f16 f32 i32 u32 vec2 vec3 vec4 mat2x2 mat2x3 mat2x4 mat3x2 mat3x3 mat3x4 mat4x2 mat4x3
  mat4x4 array atomic ptr sampler texture_2d
`);
export const WGSL_WORDS = new Set([
  ...WGSL_KEYWORDS,
  ...words(`
  abs atan2 bitcast ceil clamp cos dot dpdx dpdy exp floor fract fs length log main max min mix pow select sign
  sin sqrt textureSample textureSampleGrad vs
  `),
]);

/** C99, 6.4.1 Keywords; names of headers that are included. */
const C_KEYWORDS = words(`
  auto break case char const continue default do double else enum extern float for goto if inline int long
  register restrict return short signed sizeof static struct switch typedef union unsigned void volatile while asm
  typeof int32_t uint32_t errno NULL INFINITY NAN M_PI linux unix i386 bool true false complex imaginary I
`);
export const C_WORDS = new Set([
  ...C_KEYWORDS,
  ...words(`
  atan2 ceil cos exp fabs floor fmax fmin gamma isfinite isnan j0 j1 jn log main memcpy sin sqrt trunc y0 y1 yn
  `),
]);

/** ECMA-262, 12.7.2 Keywords and Reserved Words; names that the module exports. */
const JAVASCRIPT_KEYWORDS = words(`
  abstract arguments await boolean break byte case catch char class const continue debugger default delete do
  double else enum eval export extends false final finally float for function goto if implements import in
  instanceof int interface let long native new null package private protected public return short static super
  switch synchronized this throw throws transient true try typeof undefined var void volatile while with yield
  async of get set
`);
export const JAVASCRIPT_WORDS = new Set([
  ...JAVASCRIPT_KEYWORDS,
  ...words(`
  Array Float32Array Infinity Int32Array Math NaN Number Object Uint32Array globalThis
  `),
]);

/** Keywords of all languages with fields: what every target is to call the same, such as dials, is called by none. */
export const FIELD_WORDS: ReadonlySet<string> = new Set([
  ...GLSL_KEYWORDS,
  ...HLSL_KEYWORDS,
  ...WGSL_KEYWORDS,
  ...C_KEYWORDS,
]);
