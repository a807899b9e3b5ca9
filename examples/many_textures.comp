#version 450
#extension GL_EXT_nonuniform_qualifier : require
// A wall of pictures: each pixel indexes the texture that hangs there.
layout(local_size_x = 8, local_size_y = 8) in;
layout(set = 0, binding = 0) uniform sampler2D pictures[];
layout(set = 1, binding = 0, std430) writeonly buffer Wall { uint pixels[]; };
layout(push_constant) uniform Sizes { uint width, height, columns, rows; };

vec3 srgb(vec3 light) {
    return mix(light * 12.92, 1.055 * pow(light, vec3(1.0 / 2.4)) - 0.055, greaterThan(light, vec3(0.0031308)));
}

void main() {
    uvec2 at = gl_GlobalInvocationID.xy;
    if (at.x >= width || at.y >= height) return;
    vec2 place = (vec2(at) + 0.5) * vec2(columns, rows) / vec2(width, height);
    uvec2 cell = uvec2(place);
    vec2 uv = (fract(place) - 0.05) / 0.9;
    uint number = cell.y * columns + cell.x;
    vec3 color = vec3(0.02, 0.025, 0.03);
    if (all(greaterThan(uv, vec2(0.0))) && all(lessThan(uv, vec2(1.0))))
        color = textureLod(pictures[nonuniformEXT(number)], uv, 0.0).rgb;
    pixels[at.y * width + at.x] = packUnorm4x8(vec4(srgb(color), 1.0));
}
