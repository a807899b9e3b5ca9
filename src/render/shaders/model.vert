// Positions come in clip space: the CPU has been the camera, so that both ways to draw agree.
layout(location = 0) in vec4 clip;
layout(location = 1) in vec3 position_in;
layout(location = 2) in vec3 normal_in;
layout(location = 3) in vec4 tangent_in;
layout(location = 4) in vec4 coordinates_in;
layout(location = 5) in vec4 color_in;
out vec3 position, normal;
out vec4 tangent, coordinates, vertex_color;

void main() {
    position = position_in;
    normal = normal_in;
    tangent = tangent_in;
    coordinates = coordinates_in;
    vertex_color = color_in;
    gl_Position = clip;
}
