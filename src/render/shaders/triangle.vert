// One triangle over the whole picture.
void main() {
    vec2 corner = vec2(VERTEX == 1 ? 3.0 : -1.0, VERTEX == 2 ? 3.0 : -1.0);
    gl_Position = vec4(corner, 0.0, 1.0);
}
