// A mesh's surface: what src/render/model/shade.cpp computes, by the same numbers. Row 0 of the
// framebuffer is the picture's top row, so that no flip is needed on the way out, and front and
// back change places.
struct Unit {
    vec4 row_u, row_v;  // of the coordinates' matrix; then 1 if there is a texture, and the set
    vec4 kind;          // 1 if signed, 1 if of two channels, 1 if a placeholder
};
NUMBERS uniform Numbers {
    vec4 mode;       // what is shown (-1: the backdrop), alpha's use, 1 if two-sided, the cutoff
    vec4 base;       // linear
    vec4 factors;    // metallic, roughness, scale of normals, strength of occlusion
    vec4 emissive;
    vec4 slot;       // its colour
    vec4 eye, lamp;
    vec4 constants;  // chequer's shade, plain gray, 1 if there are coordinates, 1 if unlit
    vec4 size;       // of the base colour's texture, its last level, its mip filter
    vec4 detail;     // bias, least, most, anisotropy
    vec4 levels[8];  // their colours
    Unit units[5];
};
TEXTURE uniform sampler2D base_map;
TEXTURE uniform sampler2D metallic_roughness_map;
TEXTURE uniform sampler2D normal_map;
TEXTURE uniform sampler2D occlusion_map;
TEXTURE uniform sampler2D emissive_map;
in vec3 position, normal;
in vec4 tangent, coordinates, vertex_color;
COLOR out vec4 color;

const float pixel = 2.0;  // samples along a pixel's side

vec2 turned(Unit unit, vec4 both, float moved) {
    vec2 uv = unit.row_v.w > 0.5 ? both.zw : both.xy;
    return vec2(unit.row_u.x * uv.x + unit.row_u.y * uv.y + unit.row_u.z * moved,
                unit.row_v.x * uv.x + unit.row_v.y * uv.y + unit.row_v.z * moved);
}

vec4 read(sampler2D map, Unit unit, vec4 dx, vec4 dy) {
    return textureGrad(map, turned(unit, coordinates, 1.0), turned(unit, dx, 0.0), turned(unit, dy, 0.0));
}

vec3 surface_normal(Unit unit, vec4 stored, vec3 n) {
    if (unit.row_u.w < 0.5) return n;
    vec3 m = unit.kind.x > 0.5 ? stored.xyz : 2.0 * stored.xyz - 1.0;
    if (unit.kind.y > 0.5) m.z = sqrt(max(0.0, 1.0 - m.x * m.x - m.y * m.y));
    m = normalize(vec3(m.xy * factors.z, m.z));
    vec3 t = normalize(tangent.xyz);
    vec3 b = cross(normalize(normal), t) * (tangent.w < 0.0 ? -1.0 : 1.0);
    return normalize(m.x * t + m.y * b + m.z * n);
}

float shine_lobe(vec3 n, vec3 l, vec3 v, float roughness, out float rise) {
    vec3 h = normalize(l + v);
    float nl = max(dot(n, l), 0.0), nv = max(dot(n, v), 1e-3), nh = max(dot(n, h), 0.0);
    float alpha = max(roughness * roughness, 1e-3);
    float squared = alpha * alpha;
    float spread = nh * nh * (squared - 1.0) + 1.0;
    float lobe = squared / (3.14159265 * spread * spread);
    float shadow = 0.5 / (nl * sqrt(nv * nv * (1.0 - squared) + squared) +
                          nv * sqrt(nl * nl * (1.0 - squared) + squared) + 1e-6);
    float facing = 1.0 - clamp(dot(h, v), 0.0, 1.0);
    rise = facing * facing * facing * facing * facing;
    return lobe * shadow * nl;
}

vec3 level_shown(vec4 dx, vec4 dy) {
    if (units[0].row_u.w < 0.5 || units[0].kind.z > 0.5) return vec3(constants.y);
    float across = length(turned(units[0], dx, 0.0) * size.xy);
    float down = length(turned(units[0], dy, 0.0) * size.xy);
    float longer = max(across, down), shorter = min(across, down);
    float along = shorter > 0.0 ? min(ceil(longer / shorter), floor(detail.w)) : floor(detail.w);
    float wanted = clamp(log2(longer / max(along, 1.0)) + detail.x, detail.y, detail.z);
    float level = wanted <= 0.0 || size.w < 0.5 ? 0.0
                  : size.w < 1.5 ? min(ceil(wanted + 0.5) - 1.0, size.z)
                                 : min(wanted, size.z);
    int finer = int(min(floor(level), 7.0));
    return mix(levels[finer].rgb, levels[min(finer + 1, 7)].rgb, min(level, 7.0) - float(finer));
}

vec3 coordinates_shown() {
    vec2 part = fract(coordinates.xy);
    bool dark = (int(part.x * 8.0) + int(part.y * 8.0)) % 2 == 1;
    return vec3(part, 0.15) * (dark ? constants.x : 1.0);
}

void main() {
    int show = int(mode.x);
    vec4 dx = dFdx(coordinates) * pixel, dy = dFdy(coordinates) * pixel;
    if (show < 0) {
        color = vec4(vertex_color.rgb, 1.0);
        return;
    }
    vec4 base_read = read(base_map, units[0], dx, dy);
    vec4 rough_read = read(metallic_roughness_map, units[1], dx, dy);
    vec4 normal_read = read(normal_map, units[2], dx, dy);
    vec4 open_read = read(occlusion_map, units[3], dx, dy);
    vec4 glow_read = read(emissive_map, units[4], dx, dy);

    bool front = !gl_FrontFacing;
    vec4 here = units[0].kind.z > 0.5 ? base_read : (units[0].row_u.w > 0.5 ? base_read : vec4(1.0)) * base * vertex_color;
    if (!front && mode.z < 0.5) discard;
    if (mode.y == 1.0 && here.a < mode.w) discard;

    vec3 v = normalize(eye.xyz - position);
    vec3 facing_normal = normalize(normal) * (front ? 1.0 : -1.0);
    vec3 n = surface_normal(units[2], normal_read, facing_normal);
    vec3 shown = vec3(constants.y);
    if (show == 0) {
        float metallic = factors.x * (units[1].row_u.w > 0.5 ? rough_read.b : 1.0);
        float roughness = factors.y * (units[1].row_u.w > 0.5 ? rough_read.g : 1.0);
        float open = units[3].row_u.w > 0.5 ? 1.0 + factors.w * (open_read.r - 1.0) : 1.0;
        float rise;
        float lobe = shine_lobe(n, lamp.xyz, v, max(roughness, 0.05), rise);
        float direct = 0.85 * max(dot(n, lamp.xyz), 0.0);
        float ambient = open * (0.30 + 0.12 * n.y);
        vec3 head_on = 0.04 * (1.0 - metallic) + here.rgb * metallic;
        shown = here.rgb * (1.0 - metallic) * (direct + ambient) + head_on * ambient * 1.4 +
                2.0 * lobe * (head_on + (1.0 - head_on) * rise) +
                emissive.rgb * (units[4].row_u.w > 0.5 ? glow_read.rgb : vec3(1.0));
        if (constants.w > 0.5) shown = here.rgb;
    }
    if (show == 1 && constants.z > 0.5) shown = coordinates_shown();
    if (show == 3) shown = slot.rgb;
    if (show == 4) shown = level_shown(dx, dy);
    if (show == 2) shown = 0.5 + 0.5 * n;
    else if (show != 0) shown *= 0.45 + 0.55 * max(dot(n, v), 0.0);
    color = vec4(shown, mode.y == 2.0 && show == 0 ? clamp(here.a, 0.0, 1.0) : 1.0);
}
