vec4 read_part(sampler2D atlas, vec3 row_u, vec3 row_v, vec4 box, vec2 last_level_size, bool repeats, vec2 uv) {
    vec2 dx = dFdx(uv), dy = dFdy(uv);
    vec2 at = repeats ? fract(uv) : uv;
    vec2 place = vec2(dot(row_u, vec3(at, 1.0)), dot(row_v, vec3(at, 1.0)));
    vec2 atlas_dx = vec2(dot(row_u.xy, dx), dot(row_v.xy, dx));
    vec2 atlas_dy = vec2(dot(row_u.xy, dy), dot(row_v.xy, dy));
    // Along a footprint of more than half a texel of the last clean level, neighbours might be read.
    float texels = max(length(atlas_dx * last_level_size), length(atlas_dy * last_level_size));
    vec2 size = vec2(textureSize(atlas, 0));
    float longest = max(length(atlas_dx * size), length(atlas_dy * size)) / max(texels, 1.0);
    vec4 texel = textureLod(atlas, place, log2(max(longest, 1e-9)));
    if (texels < 0.5)
        texel = mix(textureGrad(atlas, place, atlas_dx, atlas_dy), texel, smoothstep(0.25, 0.5, texels));
    bool inside = at.x >= box.x && at.y >= box.y && at.x <= box.z && at.y <= box.w;
    return inside ? texel : vec4(0.0);
}
