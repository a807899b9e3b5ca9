/** The shaders of the core's scenes for WebGPU: the same sums as in `src/render/shaders`, from the same numbers. */
const vertex = /* wgsl */ `
@vertex fn cover(@builtin(vertex_index) index: u32) -> @builtin(position) vec4f {
  return vec4f(select(-1.0, 3.0, index == 1u), select(-1.0, 3.0, index == 2u), 0.0, 1.0);
}
`;

/** A textured plane before a backdrop. */
export const planeShader = vertex + /* wgsl */ `
struct Numbers {
  s_row: vec4f, t_row: vec4f, q_row: vec4f,
  limits: vec4f,           // least q, 1 if there are bounds, end of u, end of v
  backdrop_top: vec4f,     // and the picture's height
  backdrop_bottom: vec4f,  // and the alpha mode: 0 straight, 1 premultiplied, 2 cut-out
  cutout: vec4f,           // its threshold
};
@group(0) @binding(0) var<uniform> numbers: Numbers;
@group(0) @binding(1) var picture: texture_2d<f32>;
@group(0) @binding(2) var picture_sampler: sampler;

@fragment fn shade(@builtin(position) position: vec4f) -> @location(0) vec4f {
  let n = numbers;
  let p = position.xy;
  let q = n.q_row.x * p.x + n.q_row.y * p.y + n.q_row.z;
  let divisor = max(q, n.limits.x);
  let uv = vec2f((n.s_row.x * p.x + n.s_row.y * p.y + n.s_row.z) / divisor, (n.t_row.x * p.x + n.t_row.y * p.y + n.t_row.z) / divisor);
  let surface = textureSample(picture, picture_sampler, uv);
  let share = p.y / n.backdrop_top.w;
  let backdrop = n.backdrop_top.rgb * (1.0 - share) + n.backdrop_bottom.rgb * share;
  let inside = n.limits.y == 0.0 || (uv.x >= 0.0 && uv.x <= n.limits.z && uv.y >= 0.0 && uv.y <= n.limits.w);
  let seen = q >= n.limits.x && inside;
  let alpha_mode = i32(n.backdrop_bottom.w);
  var result = backdrop;
  if (seen && alpha_mode == 0) { result = backdrop * (1.0 - surface.a) + surface.rgb * surface.a; }
  if (seen && alpha_mode == 1) { result = backdrop * (1.0 - surface.a) + surface.rgb; }
  if (seen && alpha_mode == 2 && surface.a >= n.cutout.x) { result = surface.rgb; }
  return vec4f(result, 1.0);
}
`;

/** A sky, and a ball that mirrors it. */
export const cubeShader = vertex + /* wgsl */ `
struct Numbers {
  x_row: vec4f, y_row: vec4f, z_row: vec4f,
  ball: vec4f,    // its middle, and 1 if there is one
  levels: vec4f,  // of the sky and the ball, below 0: by the size of a pixel; exposure; 1 if matt
  harmonics: array<vec4f, 9>,
};
@group(0) @binding(0) var<uniform> numbers: Numbers;
@group(0) @binding(1) var sky: texture_cube<f32>;
@group(0) @binding(2) var sky_sampler: sampler;

fn matt(n: vec3f) -> vec3f {
  let h = numbers.harmonics;
  return h[0].rgb * 0.282094791773878 + (h[1].rgb * n.y + h[2].rgb * n.z + h[3].rgb * n.x) * 0.488602511902920
       + (h[4].rgb * n.x * n.y + h[5].rgb * n.y * n.z + h[7].rgb * n.x * n.z) * 1.092548430592079
       + h[6].rgb * 0.315391565252520 * (3.0 * n.z * n.z - 1.0) + h[8].rgb * 0.546274215296040 * (n.x * n.x - n.y * n.y);
}

fn light_from(direction: vec3f, level: f32) -> vec3f {
  let by_size = textureSample(sky, sky_sampler, direction).rgb;
  return select(textureSampleLevel(sky, sky_sampler, direction, level).rgb, by_size, level < 0.0);
}

@fragment fn shade(@builtin(position) position: vec4f) -> @location(0) vec4f {
  let n = numbers;
  let p = position.xy;
  let r = vec3f(n.x_row.x * p.x + n.x_row.y * p.y + n.x_row.z, n.y_row.x * p.x + n.y_row.y * p.y + n.y_row.z, n.z_row.x * p.x + n.z_row.y * p.y + n.z_row.z);
  let ball = n.ball.xyz;
  let a = dot(r, r);
  let b = dot(r, ball);
  let outside = dot(ball, ball) - 1.0;
  let root = b * b - a * outside;
  // The distance from the outline in pixels is root over the length of its gradient.
  let across = vec3f(n.x_row.x, n.y_row.x, n.z_row.x);
  let down = vec3f(n.x_row.y, n.y_row.y, n.z_row.y);
  let steepness = length(2.0 * vec2f(b * dot(across, ball) - outside * dot(across, r), b * dot(down, ball) - outside * dot(down, r)));
  let coverage = select(0.0, clamp(0.5 + root / steepness, 0.0, 1.0), n.ball.w == 1.0 && b > 0.0 && steepness > 0.0);
  let normal = r * ((b - sqrt(max(root, 0.0))) / a) - ball;
  let behind = light_from(r, n.levels.x);
  let mirrored = light_from(r - 2.0 * dot(r, normal) * normal, n.levels.y);
  let light = mix(behind, select(mirrored, matt(normalize(normal)), n.levels.w == 1.0), coverage);
  return vec4f(light * n.levels.z, 1.0);
}
`;
