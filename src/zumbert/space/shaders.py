"""The shaders of the pen in space, GLSL 3.30. A part's colour and what it is just now stand in one
texel of `looks`; of lines width, opacity and dashes in one of `styles`.
"""

ROW = 256  # texels of a line of both textures
SHOWN, SELECTED, HOVERED = 1, 2, 4  # bits of what a part is just now

_LOOK = """
uniform sampler2D looks;
ivec2 texel(uint part) { return ivec2(int(part) % ROW, int(part) / ROW); }
uint bits(vec4 look) { return uint(look.a * 255.0 + 0.5); }
const uint SHOWN = BITu;
""".replace("ROW", str(ROW)).replace("BIT", str(SHOWN))

FACES = (
    """#version 330
in vec3 place; in vec3 normal; in uint part;
uniform mat4 matrix; uniform float stretch;
"""
    + _LOOK
    + """
flat out vec3 ink; flat out uint id; out vec3 away;
void main() {
    vec4 look = texelFetch(looks, texel(part), 0);
    ink = look.rgb; id = part + 1u;
    away = vec3(normal.xy, normal.z / stretch);
    gl_Position = (bits(look) & SHOWN) == 0u ? vec4(2.0, 2.0, 2.0, 1.0) : matrix * vec4(place, 1.0);
}"""
)

# of few parts with many faces each: their colour comes as a whole
SHEET = """#version 330
in vec3 place; in vec3 normal;
uniform mat4 matrix; uniform float stretch; uniform vec3 whole; uniform uint number;
flat out vec3 ink; flat out uint id; out vec3 away;
void main() {
    ink = whole; id = number;
    away = vec3(normal.xy, normal.z / stretch);
    gl_Position = matrix * vec4(place, 1.0);
}"""

SHADED = """#version 330
flat in vec3 ink; flat in uint id; in vec3 away;
uniform vec3 light; uniform vec3 eye; uniform float strength; uniform float shade;
layout(location = 0) out vec4 colour; layout(location = 1) out uint picked;
void main() {
    vec3 n = normalize(away);
    if (dot(n, eye) < 0.0) n = -n;
    float lit = 1.0 - shade * (1.0 - max(dot(n, light), 0.0))
        - 0.35 * shade * (1.0 - abs(dot(n, eye)));
    colour = vec4(ink * lit, strength);
    picked = id;
}"""

HALO = (
    """#version 330
in vec3 place; in vec3 normal; in uint part;
uniform mat4 matrix; uniform float stretch; uniform uint bit; uniform vec2 grow;
"""
    + _LOOK
    + """
void main() {
    vec4 at = matrix * vec4(place, 1.0);
    vec2 aside = (matrix * vec4(normal.xy, normal.z / stretch, 0.0)).xy / grow;
    float far = length(aside);
    if (far > 1e-6) at.xy += aside / far * grow * at.w;
    bool shown = (bits(texelFetch(looks, texel(part), 0)) & (SHOWN | bit)) == (SHOWN | bit);
    gl_Position = shown ? at : vec4(2.0, 2.0, 2.0, 1.0);
}"""
)

PLAIN = """#version 330
uniform vec4 ink;
layout(location = 0) out vec4 colour;
void main() { colour = ink; }"""

LINES = (
    """#version 330
in vec3 place; in uint part;
uniform mat4 matrix; uniform float nearer; uniform uint bit; uniform vec4 halo; uniform float wide;
"""
    + _LOOK
    + """
uniform sampler2D styles;
out vec4 ink; out vec2 style; out uint number;
void main() {
    number = part + 1u;
    vec4 look = texelFetch(looks, texel(part), 0), how = texelFetch(styles, texel(part), 0);
    ink = vec4(look.rgb, (bits(look) & SHOWN) == 0u ? 0.0 : how.g);
    style = vec2(how.r * 25.5, how.b * 25.5);
    if (bit != 0u) {  // what is selected or pointed at, under the line itself
        ink = (bits(look) & bit) != 0u ? halo : vec4(0.0);
        style = vec2(style.x + 2.0 * wide, 0.0);
    }
    vec4 at = matrix * vec4(place, 1.0);
    at.z -= nearer * at.w;
    gl_Position = at;
}"""
)

WIDE = """#version 330
layout(lines) in; layout(triangle_strip, max_vertices = 4) out;
in vec4 ink[]; in vec2 style[]; in uint number[];
uniform vec2 size;
out vec4 shade; out float along; flat out float dash; flat out uint id;
void put(vec4 at, float s) {
    shade = ink[0]; dash = style[0].y; id = number[0]; along = s;
    gl_Position = at; EmitVertex();
}
void main() {
    vec4 a = gl_in[0].gl_Position, b = gl_in[1].gl_Position;
    if (ink[0].a <= 0.0 || (a.w <= 1e-4 && b.w <= 1e-4)) return;
    if (a.w < 1e-4) a = mix(b, a, (b.w - 1e-4) / (b.w - a.w));
    if (b.w < 1e-4) b = mix(a, b, (a.w - 1e-4) / (a.w - b.w));
    vec2 way = (b.xy / b.w - a.xy / a.w) * size / 2.0;
    float far = length(way);
    vec2 aside = far > 1e-6 ? vec2(-way.y, way.x) / far : vec2(0.0, 1.0);
    vec2 by = aside * style[0].x / size;
    put(a + vec4(by * a.w, 0.0, 0.0), 0.0);
    put(a - vec4(by * a.w, 0.0, 0.0), 0.0);
    put(b + vec4(by * b.w, 0.0, 0.0), far);
    put(b - vec4(by * b.w, 0.0, 0.0), far);
    EndPrimitive();
}"""

DASHED = """#version 330
in vec4 shade; in float along; flat in float dash; flat in uint id;
layout(location = 0) out vec4 colour; layout(location = 1) out uint picked;
void main() {
    picked = id;
    if (dash > 0.0 && mod(along, 2.0 * dash) > dash) discard;
    colour = shade;
}"""
