// A textured plane before a backdrop: the numbers of yl/scene.hpp, evaluated as the CPU does. Row 0
// of the framebuffer is the picture's top row, so that no flip is needed on the way out.
NUMBERS uniform Numbers {
    vec4 s_row, t_row, q_row;
    vec4 limits;           // least q, 1 if there are bounds, end of u, end of v
    vec4 backdrop_top;     // and the picture's height
    vec4 backdrop_bottom;  // and the alpha mode: 0 straight, 1 premultiplied, 2 cut-out
    vec4 cutout;           // its threshold; 1 for a part of an atlas, 2 for one that repeats
    vec4 part_u, part_v;   // from the part's picture to the atlas; then the size of its last clean level
    vec4 part_box;
};
TEXTURE uniform sampler2D picture;
COLOR out vec4 color;

void main() {
    vec2 p = gl_FragCoord.xy;
    float q = q_row.x * p.x + q_row.y * p.y + q_row.z;
    float divisor = max(q, limits.x);
    vec2 uv = vec2((s_row.x * p.x + s_row.y * p.y + s_row.z) / divisor, (t_row.x * p.x + t_row.y * p.y + t_row.z) / divisor);
    vec4 surface = cutout.y > 0.5 ? read_part(picture, part_u.xyz, part_v.xyz, part_box, vec2(part_u.w, part_v.w), cutout.y > 1.5, uv) : texture(picture, uv);
    float share = p.y / backdrop_top.w;
    vec3 backdrop = backdrop_top.rgb * (1.0 - share) + backdrop_bottom.rgb * share;
    bool inside = limits.y == 0.0 || (uv.x >= 0.0 && uv.x <= limits.z && uv.y >= 0.0 && uv.y <= limits.w);
    bool seen = q >= limits.x && inside;
    int alpha_mode = int(backdrop_bottom.w);
    vec3 result = backdrop;
    if (seen && alpha_mode == 0) result = backdrop * (1.0 - surface.a) + surface.rgb * surface.a;
    if (seen && alpha_mode == 1) result = backdrop * (1.0 - surface.a) + surface.rgb;
    if (seen && alpha_mode == 2 && surface.a >= cutout.x) result = surface.rgb;
    color = vec4(result, 1.0);
}
