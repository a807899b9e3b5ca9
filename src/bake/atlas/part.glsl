vec4 read_part(sampler2D atlas, vec3 row_u, vec3 row_v, vec4 box, bool repeats, vec2 uv) {
    vec2 dx = dFdx(uv), dy = dFdy(uv);
    vec2 at = repeats ? fract(uv) : uv;
    vec4 texel = textureGrad(atlas, vec2(dot(row_u, vec3(at, 1.0)), dot(row_v, vec3(at, 1.0))),
                             vec2(dot(row_u.xy, dx), dot(row_v.xy, dx)),
                             vec2(dot(row_u.xy, dy), dot(row_v.xy, dy)));
    bool inside = at.x >= box.x && at.y >= box.y && at.x <= box.z && at.y <= box.w;
    return inside ? texel : vec4(0.0);
}
