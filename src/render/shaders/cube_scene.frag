// A sky, and a ball that mirrors it: the numbers of yl/cube_scene.hpp, evaluated as the CPU does.
NUMBERS uniform Numbers {
    vec4 x_row, y_row, z_row;
    vec4 ball;           // its middle, and 1 if there is one
    vec4 levels;         // of the sky and the ball, below 0: by the size of a pixel; exposure; 1 if matt
    vec4 harmonics[9];   // times the cosine's own
};
TEXTURE uniform samplerCube sky;
COLOR out vec4 color;

vec3 matt(vec3 n) {
    return harmonics[0].rgb * 0.282094791773878 + (harmonics[1].rgb * n.y + harmonics[2].rgb * n.z + harmonics[3].rgb * n.x) * 0.488602511902920
         + (harmonics[4].rgb * n.x * n.y + harmonics[5].rgb * n.y * n.z + harmonics[7].rgb * n.x * n.z) * 1.092548430592079
         + harmonics[6].rgb * 0.315391565252520 * (3.0 * n.z * n.z - 1.0) + harmonics[8].rgb * 0.546274215296040 * (n.x * n.x - n.y * n.y);
}

vec3 light_from(vec3 direction, float level) {
    vec3 by_size = texture(sky, direction).rgb;
    return level < 0.0 ? by_size : textureLod(sky, direction, level).rgb;
}

void main() {
    vec2 p = gl_FragCoord.xy;
    vec3 r = vec3(x_row.x * p.x + x_row.y * p.y + x_row.z, y_row.x * p.x + y_row.y * p.y + y_row.z, z_row.x * p.x + z_row.y * p.y + z_row.z);
    float a = dot(r, r), b = dot(r, ball.xyz), outside = dot(ball.xyz, ball.xyz) - 1.0;
    float root = b * b - a * outside;
    // The distance from the outline in pixels is root over the length of its gradient.
    vec3 across = vec3(x_row.x, y_row.x, z_row.x), down = vec3(x_row.y, y_row.y, z_row.y);
    float steepness = length(2.0 * vec2(b * dot(across, ball.xyz) - outside * dot(across, r), b * dot(down, ball.xyz) - outside * dot(down, r)));
    float coverage = ball.w == 1.0 && b > 0.0 && steepness > 0.0 ? clamp(0.5 + root / steepness, 0.0, 1.0) : 0.0;
    vec3 normal = r * ((b - sqrt(max(root, 0.0))) / a) - ball.xyz;
    vec3 behind = light_from(r, levels.x);
    vec3 mirrored = light_from(r - 2.0 * dot(r, normal) * normal, levels.y);
    vec3 light = mix(behind, levels.w == 1.0 ? matt(normalize(normal)) : mirrored, coverage);
    color = vec4(light * levels.z, 1.0);
}
