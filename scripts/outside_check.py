"""The measures of scripts/outside-check: ylat beside Pillow, numpy in float64, and real files.

    outside_check.py YLAT FOLDER
"""

import collections
import json
import pathlib
import struct
import subprocess
import sys
import tempfile
import zipfile

import numpy as np
from PIL import Image

Image.MAX_IMAGE_PIXELS = 1 << 24  # more than twice as many is a test file's trick
YLAT, FOLDER = sys.argv[1], pathlib.Path(sys.argv[2])
WORK = pathlib.Path(tempfile.mkdtemp())
PICTURES = {".png", ".jpg", ".jpeg", ".bmp", ".tga", ".ppm", ".pgm", ".pbm"}


def ylat(*arguments):
    """Runs the tool; gives its exit code and what it said as JSON."""
    done = subprocess.run([YLAT, "--json", *map(str, arguments)], capture_output=True, timeout=300)
    try:
        return done.returncode, json.loads(done.stdout or b"null")
    except json.JSONDecodeError:
        return done.returncode, None


def read_ktx2(path):
    """Format number, and for each level an array faces x height x width x channels."""
    data = path.read_bytes()
    vk, _, width, height, _, _, faces, levels, _ = struct.unpack_from("<9I", data, 12)
    kinds = {9: ("u1", 1), 16: ("u1", 2), 37: ("u1", 4), 43: ("u1", 4), 70: ("<u2", 1), 77: ("<u2", 2),
             91: ("<u2", 4), 78: ("<i2", 2), 97: ("<f2", 4), 109: ("<f4", 4), 38: ("i1", 4)}
    kind, channels = kinds[vk]
    result = []
    for level in range(max(levels, 1)):
        offset, length, _ = struct.unpack_from("<3Q", data, 80 + 24 * level)
        w, h = max(width >> level, 1), max(height >> level, 1)
        texels = np.frombuffer(data, kind, length // np.dtype(kind).itemsize, offset)
        result.append(texels.reshape(max(faces, 1), h, w, channels))
    return vk, result


def decode(codes):
    return np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)


def encode(light):
    light = np.clip(light, 0, 1)
    return np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)


def pictures():
    """Every picture of the packages, also of those in game archives."""
    for path in sorted(FOLDER.rglob("*")):
        if path.is_file() and path.suffix.lower() in PICTURES:
            yield path
    for archive in sorted(FOLDER.rglob("*.pk3")):
        target = FOLDER / "unpacked" / archive.stem
        if not target.exists():
            with zipfile.ZipFile(archive) as files:
                for name in files.namelist():
                    if pathlib.Path(name).suffix.lower() in PICTURES and ".." not in name:
                        files.extract(name, target)
    for path in sorted((FOLDER / "unpacked").rglob("*")) if (FOLDER / "unpacked").exists() else []:
        if path.is_file() and path.suffix.lower() in PICTURES:
            yield path


def check_decoders(paths, most=1500):
    """Pixels as ylat reads and writes them again, against Pillow's."""
    table = collections.defaultdict(collections.Counter)
    step = max(len(paths) // most, 1)
    for path in paths[::step]:
        kind = path.suffix.lower().replace(".jpeg", ".jpg")
        out = WORK / "again.png"
        out.unlink(missing_ok=True)
        code, report = ylat("rework", path, "-o", out, "--effort", 0)
        try:
            theirs = Image.open(path)
            theirs.load()
        except Exception:
            table[kind]["only ylat" if code == 0 else "neither reads"] += 1
            continue
        if code != 0:
            table[kind]["only Pillow"] += 1
            continue
        said = json.dumps(report)
        if any(word in said for word in ("turned", "gamma", "CMYK", "tRNS")) or theirs.mode in ("CMYK", "I", "I;16"):
            table[kind]["changed on purpose"] += 1
            continue
        ours = np.asarray(Image.open(out).convert("RGBA"), dtype=int)
        pixels = np.asarray(theirs.convert("RGBA"), dtype=int)
        if ours.shape != pixels.shape:
            table[kind]["other size"] += 1
            continue
        off = int(np.abs(ours - pixels).max())
        # Decoders of JPEG differ by their transform's rounding, those of 15 bits by how they widen 5 to 8.
        allowed = {".jpg": 3, ".tga": 1, ".bmp": 1}.get(kind, 0)
        table[kind]["equal" if off == 0 else f"within {allowed}" if off <= allowed else "DIFFERENT"] += 1
        if off > allowed:
            print(f"  off by {off}: {path}")
    print("Pictures against Pillow:")
    for kind, counts in sorted(table.items()):
        print(f"  {kind:5} " + ", ".join(f"{n} {what}" for what, n in sorted(counts.items())))


def kaiser(x, radius=3.0, shape=4.0):
    inside = np.abs(x) < radius
    return np.where(inside, np.sinc(x) * np.i0(shape * np.sqrt(np.maximum(1 - (x / radius) ** 2, 0))) / np.i0(shape), 0)


def weights(source, target, kernel):
    """A target x source matrix; beyond the edges the outermost texel lends its weight."""
    matrix = np.zeros((target, source))
    ratio = source / target
    for i in range(target):
        if kernel == "box":
            for s in range(int(i * ratio), min(int(np.ceil((i + 1) * ratio - 1e-9)), source)):
                matrix[i, s] += (min((i + 1) * ratio, s + 1) - max(i * ratio, s)) / ratio
            continue
        middle, scale = (i + 0.5) * ratio, max(ratio, 1.0)
        reach = 3 * scale
        places = np.arange(int(np.ceil(middle - reach - 0.5)), int(np.floor(middle + reach - 0.5)) + 1)
        values = kaiser((places + 0.5 - middle) / scale)
        for place, value in zip(places, values / values.sum()):
            matrix[i, min(max(place, 0), source - 1)] += value
    return matrix


def covered(source, target, i):
    return i * source // target, -(-(i + 1) * source // target)


def smaller(image, kernel, limited):
    h, w = image.shape[:2]
    th, tw = max(h // 2, 1), max(w // 2, 1)
    across, down = weights(w, tw, kernel), weights(h, th, kernel)
    result = np.einsum("ys,sxc->yxc", down, np.einsum("xs,ysc->yxc", across, image))
    if limited:
        for y in range(th):
            a, b = covered(h, th, y)
            rows = image[a:b]
            for x in range(tw):
                c, d = covered(w, tw, x)
                part = rows[:, c:d].reshape(-1, image.shape[2])
                result[y, x] = np.clip(result[y, x], part.min(0), part.max(0))
    return result


def check_levels(paths, most=14):
    """Each level against float64, from unrounded levels above, in codes."""
    min_weight = 2.0 ** -25
    print("Levels against float64 (greatest difference in codes; 0.5 is rounding):")
    chosen = []
    for path in paths:
        try:
            with Image.open(path) as image:
                if 32 <= max(image.size) <= 256 and min(image.size) >= 16 and image.mode in ("RGB", "RGBA", "L", "P"):
                    chosen.append(path)
        except Exception:
            continue
    chosen = chosen[:: max(len(chosen) // most, 1)][:most]
    for role, kernel in (("color", "kaiser"), ("data", "box"), ("normal", "kaiser"), ("mask", "box")):
        worst, count = 0.0, 0
        for path in chosen:
            out = WORK / "levels.ktx2"
            code, report = ylat("bake", path, "--role", role, "--as", "rgba8-srgb" if role == "color" else "rgba8-unorm", "-o", out)
            if code != 0:
                continue
            _, levels = read_ktx2(out)
            image = levels[0][0].astype(float) / 255
            if role == "color":
                image[..., :3] = decode(image[..., :3])
                weight = image[..., 3:] + min_weight
                image = np.concatenate([image[..., :3] * weight, weight], axis=2)
            for level in levels[1:]:
                image = smaller(image, kernel, kernel == "kaiser")
                seen = image.copy()
                if role == "color":
                    alpha = np.maximum(image[..., 3:], min_weight / 2)
                    seen[..., :3] = encode(image[..., :3] / alpha)
                    seen[..., 3] = image[..., 3] - min_weight
                if role == "normal":
                    n = 2 * image[..., :3] - 1
                    length = np.linalg.norm(n, axis=2, keepdims=True)
                    seen[..., :3] = 0.5 + 0.5 * np.where(length > 1e-6, n / np.maximum(length, 1e-9), [0, 0, 1])
                off = np.abs(np.clip(seen, 0, 1) * 255 - level[0])
                if role == "color":  # of texels that nobody sees, colour is arbitrary
                    off[..., :3][level[0][..., 3] < 4] = 0
                worst = max(worst, float(off.max()))
            count += 1
        print(f"  {role:7} {kernel:6} {worst:.3f} in {count} pictures")


def unit(n):
    return n / np.maximum(np.linalg.norm(n, axis=-1, keepdims=True), 1e-9)


def is_normal_map(path):
    """Directions towards the viewer, about one long: not a height with a normal map's name."""
    with Image.open(path) as image:
        if image.mode not in ("RGB", "RGBA"):
            return False
        n = 2 * np.asarray(image.convert("RGB"), dtype=float) / 255 - 1
    return abs(np.linalg.norm(n, axis=2).mean() - 1) < 0.1 and (n[..., 2] < 0).mean() < 0.01


def check_normals(paths, most=12):
    """The angle that level 0 is turned by, against the picture's own directions made one long."""
    maps = [p for p in paths if "_norm" in p.stem.lower() and is_normal_map(p)]
    maps = maps[:: max(len(maps) // most, 1)][:most]
    print(f"Normals of {len(maps)} real normal maps, degrees at level 0 (mean, greatest):")
    for name, kind in (("rgba8-unorm", 255), ("rg8-unorm", 255), ("rg16-unorm", 65535), ("rgba8-snorm", 127), ("rg16-snorm", 32767), ("rgba16-float", 1)):
        mean, worst, count = 0.0, 0.0, 0
        for path in maps:
            out = WORK / "normals.ktx2"
            code, _ = ylat("bake", path, "--role", "normal", "--as", name, "--levels", 1, "-o", out)
            if code != 0:
                continue
            _, levels = read_ktx2(out)
            stored = levels[0][0].astype(float) / kind
            n = stored[..., :3] if stored.shape[2] > 2 else stored
            n = 2 * n - 1 if "unorm" in name else n
            if n.shape[2] == 2:
                n = np.concatenate([n, np.sqrt(np.maximum(1 - (n ** 2).sum(2, keepdims=True), 0))], axis=2)
            own = unit(2 * np.asarray(Image.open(path).convert("RGB"), dtype=float) / 255 - 1)
            own[own[..., 2] < 0, 2] *= -1 if stored.shape[2] == 2 else 1
            angle = np.degrees(np.arccos(np.clip((unit(n) * own).sum(2), -1, 1)))
            mean += float(angle.mean())
            worst = max(worst, float(angle.max()))
            count += 1
        if count:
            print(f"  {name:13} {mean / count:.3f}  {worst:.2f}")


def skies(paths):
    """Six faces of one stem each."""
    endings = {"rt", "lf", "up", "dn", "ft", "bk"}
    sets = collections.defaultdict(dict)
    for path in paths:
        if path.stem[-2:].lower() in endings:
            sets[path.parent / path.stem[:-2].lower()][path.stem[-2:].lower()] = path
    return [faces for _, faces in sorted(sets.items()) if set(faces) == endings]


def check_skies(paths):
    """Game skies by their names, and again without names."""
    counts = collections.Counter()
    all_skies = skies(paths)
    for faces in all_skies:
        out = WORK / "sky.ktx2"
        code, named = ylat("cube", *faces.values(), "--face-size", 128, "--levels", 1, "-o", out)
        counts["built by names" if code == 0 else "refused"] += 1
        if code == 0:
            counts["joined" if not any("join" in f["problem"] for f in named["findings"]) else "with an edge named"] += 1
        plain = []
        for i, path in enumerate(faces.values()):
            plain.append(WORK / f"{'qzwvkj'[i]}.png")
            Image.open(path).convert("RGB").resize((128, 128)).save(plain[-1])
        code, _ = ylat("cube", *plain, "-o", out)
        counts["ordered without names" if code == 0 else "undecided without names"] += 1
    print(f"Skies of games: {len(all_skies)}; " + ", ".join(f"{n} {what}" for what, n in sorted(counts.items())))
    return all_skies


AXES = {  # right, left, top, bottom, front, back: the direction of (u, v), each -1 to 1, v downwards
    "right": lambda u, v: (1 + 0 * u, -v, -u), "left": lambda u, v: (-1 + 0 * u, -v, u),
    "top": lambda u, v: (u, 1 + 0 * u, v), "bottom": lambda u, v: (u, -1 + 0 * u, -v),
    "front": lambda u, v: (u, -v, 1 + 0 * u), "back": lambda u, v: (-u, -v, -1 + 0 * u)}


def directions(size):
    u, v = np.meshgrid((np.arange(size) + 0.5) / size * 2 - 1, (np.arange(size) + 0.5) / size * 2 - 1)
    d = np.stack([np.stack(axis(u, v), axis=2) for axis in AXES.values()])
    angle = (1 + u ** 2 + v ** 2) ** -1.5 * (2 / size) ** 2
    return unit(d), np.broadcast_to(angle, (6, size, size))


def write_pfm(path, image):
    path.write_bytes(f"PF\n{image.shape[1]} {image.shape[0]}\n-1.0\n".encode() + image[::-1].astype("<f4").tobytes())


def check_reflections(all_skies):
    """GGX levels of a real sky with a sun of 30,000, against the sum over all of its texels."""
    size = 128
    names = dict(zip(("right", "left", "top", "bottom", "front", "back"), ("rt", "lf", "up", "dn", "ft", "bk")))
    faces, inputs = [], []
    for name, ending in names.items():
        picture = Image.open(all_skies[0][ending]).convert("RGB").resize((size, size))
        faces.append(decode(np.asarray(picture, dtype=float) / 255))
    faces[2][40, 70] = (30000, 28000, 24000)
    faces[2][40, 71] = (9000, 8000, 7000)
    for name, image in zip(names, faces):
        inputs.append(f"{name}={WORK / (name + '.pfm')}")
        write_pfm(WORK / (name + ".pfm"), image)
    out = WORK / "rough.ktx2"
    roughness = (0, 0.2, 0.4, 0.6, 0.8, 1)
    code, _ = ylat("cube", *inputs, "--prefilter", "specular", "--as", "rgba32-float", "--levels", 6,
                   "--roughness", ",".join(map(str, roughness)), "-o", out)
    if code != 0:
        return print("Reflections: the cube was refused")
    _, levels = read_ktx2(out)
    source, angle = directions(size)
    source, angle = source.reshape(-1, 3), angle.reshape(-1)
    light = np.stack(faces).reshape(-1, 3)
    print("Reflections of a real sky with a sun of 30,000 against the whole integral (mean, worst texel):")
    for level in range(1, 6):
        a2 = roughness[level] ** 4
        normals, _ = directions(size >> level)
        found, normals = levels[level][..., :3].reshape(-1, 3).astype(float), normals.reshape(-1, 3)
        off, whole, worst = 0.0, 0.0, 0.0
        for i in range(0, len(normals), max(len(normals) // 600, 1)):
            z = source @ normals[i]
            below = (1 + z) / 2 * (a2 - 1) + 1
            kernel = np.where(z > 0, a2 / below ** 2 * z, 0) * angle
            wanted = kernel @ light / kernel.sum()
            off += np.abs(found[i] - wanted).sum()
            whole += wanted.sum()
            worst = max(worst, float((np.abs(found[i] - wanted) / wanted).max()))
        print(f"  roughness {roughness[level]:.1f}, faces of {size >> level:2}: {100 * off / whole:.3f} %, {100 * worst:.2f} %")


sys.stdout.reconfigure(line_buffering=True)
everything = sorted(set(pictures()))
print(f"{len(everything)} pictures")
check_decoders(everything)
check_levels(everything)
check_normals(everything)
found = check_skies(everything)
if found:
    check_reflections(found)
