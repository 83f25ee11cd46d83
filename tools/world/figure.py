"""The shading of figures: folds, colours, sun, shade and shine, as kernels over the pixels."""

import math

from numba import njit, prange

from .noise import clamp, plain, smooth
from .place import ray
from .solids import distance, local, mask_near, span_of_ray, sunlight


@njit(fastmath=True, cache=True)
def bump(tex, material, pattern, lx, ly, lz):
    """Height of folds, strands and weave over the smooth body."""
    turn = math.atan2(lx, lz)
    if material == 1:
        a = turn * 0.16
        w = ly + 0.05 * plain(tex, a * 6.0 + 3.0, ly * 4.0)
        fold = 1 - abs(plain(tex, a * 5.0 + 2.0 + w * 2.0, w * 9.0 + pattern))
        deep = 0.0120 if pattern == 1 else 0.008
        return deep * fold * fold + 0.0016 * plain(tex, a * 14.0 - ly * 6.0, ly * 16.0 + 7.0)
    if material == 5:
        if pattern == 20:
            return 0.0034 * plain(tex, ly * 75.0 + 0.6 * plain(tex, turn * 2.0, 3.0), turn * 1.1 + 5.0)
        return 0.0032 * plain(tex, turn * 7.0 + ly * 10.0, ly * 3.0 + 5.0) + 0.0012 * plain(tex, turn * 19.0, ly * 6.0)
    if material == 10:
        return 0.005 * plain(tex, turn * 1.3, ly * 9.0 + 2.0)
    if material == 2:
        return 0.0018 * plain(tex, lx * 20.0 + lz * 20.0, ly * 26.0)
    return 0.0


@njit(fastmath=True, cache=True)
def zigzag(u, v, teeth, deep):
    """v, pushed up and down in `teeth` teeth along u."""
    f = u * teeth - math.floor(u * teeth)
    return v + (abs(f - 0.5) * 2 - 0.5) * deep


@njit(fastmath=True, cache=True)
def albedo(dyes, material, pattern, lx, ly, lz):
    """Colour (3), shine, and how far light wraps round.

    `dyes` (11, 3): light, main, bright, yoke, leggings, shorts, shoes, skin, hair, band, lips.
    """
    dye = 5
    shine = 0.12
    wrap = 0.12
    if material == 0:
        dye = 7
        shine = 0.22
        wrap = 0.35
    elif material == 1:
        u = math.atan2(lx, lz) / 6.2832 + 0.5
        dye = 1
        if pattern == 1:
            v = zigzag(u, ly, 9.0, 0.045)
            if v > 0.300:
                dye = 3
            elif v > 0.275 or 0.195 < v < 0.225:
                dye = 0
            elif v > 0.225:
                dye = 2
            v = zigzag(u + 0.05, ly, 9.0, 0.030)
            if 0.075 < v < 0.092:
                dye = 0
            if ly > 0.505:
                dye = 2
            if lx > 0 and abs(lz) < 0.006 and ly > 0:
                dye = 0
        elif pattern == 15:
            dye = 3
        elif pattern == 10:
            v = zigzag(u, ly, 5.0, 0.035)
            if v < 0.075:
                dye = 3
            elif 0.098 < v < 0.140:
                dye = 2
            elif v < 0.160:
                dye = 0
        elif ly >= 0.165:
            dye = 3
        elif ly > 0.14:
            dye = 0
    elif material == 2:
        dye = 4
        if pattern == 2 and abs(lx) < 0.009 and lz > 0:
            dye = 0
        shine = 0.22
    elif material == 3:
        dye = 6
        if 0.05 < ly < 0.075 or 0.09 < ly < 0.105:
            return 0.90, 0.86, 0.78, 0.3, wrap
        shine = 0.3
    elif material == 4:
        return 0.86, 0.82, 0.74, shine, wrap
    elif material == 5:
        dye = 8
        shine = 0.5
    elif material == 6:
        dye = 9
        if pattern == 12:
            dye = 0
        elif pattern == 7:
            return 0.90, 0.86, 0.78, shine, wrap
    elif material == 7:
        off = math.sqrt((ly - 0.0015) * (ly - 0.0015) + lz * lz)
        if lx < 0 or off > 0.0100:
            return 0.62, 0.57, 0.53, 0.5, 0.3
        if off > 0.0048:
            return 0.075, 0.034, 0.016, 0.6, wrap
        return 0.006, 0.005, 0.005, 0.7, wrap
    elif material == 8:
        dye = 10
        shine = 0.3
    elif material == 9:  # what is carried keeps its colours whoever holds it
        if pattern == 14:
            if int(math.floor(ly * 6.66)) % 2 == 0:
                return 0.98, 0.55, 0.04, 0.15, 0.6
            return 0.93, 0.84, 0.66, 0.15, 0.6
        if pattern == 17:
            ring = math.sqrt(ly * ly + lz * lz)
            grain = 0.75 + 0.25 * math.sin(lz * 260.0 + 14.0 * ly)
            if 0.052 < ring < 0.061:
                return 0.86, 0.105, 0.055, 0.35, wrap
            if ring < 0.020:
                return 0.98, 0.55, 0.04, 0.35, wrap
            return 0.46 * grain, 0.25 * grain, 0.10 * grain, 0.35, wrap
        if pattern == 16:
            turn = 0.80 + 0.20 * math.sin(lx * 1500.0)
            return 0.90 * turn, 0.84 * turn, 0.68 * turn, 0.2, 0.3
        if int(math.floor(ly * 16)) % 2 == 0:
            return 0.95, 0.93, 0.88, 0.4, 0.1
        return 0.02, 0.42, 0.46, 0.4, 0.1
    elif pattern == 4 and 0.226 < ly < 0.244:
        dye = 2
    return dyes[dye, 0], dyes[dye, 1], dyes[dye, 2], shine, wrap


@njit(fastmath=True, cache=True)
def rough_distance(tex, rows, segments, spheres, mask, x, y, z, which, material):
    """Distance to the body with its folds."""
    d, _m, _p = distance(rows, segments, spheres, mask, x, y, z, 1e3)
    kind = material % 16
    if kind == 1 or kind == 5 or kind == 10 or kind == 2:
        lx, ly, lz = local(rows, which, x, y, z)
        d -= bump(tex, kind, rows[which, 18], lx, ly, lz)
    return d


@njit(parallel=True, fastmath=True, cache=True)
def figure_pass(
    tex, camera, jx, jy, sun, lamp, rows, segments, spheres, around, box, faces, dyes, depth, light, shaded, alpha
):
    """Adds one sample of the figures to alpha (H, W, figures) and, at every other hit of a pixel, to light.

    Light (H, W, 3) is the sum of `shaded` (H, W) samples: inside a figure its colour hardly changes from
    sample to sample, its outline does. Works within box (x0, x1, y0, y1); `depth` (H, W) hides what lies
    behind the place; `faces` (figures, 3) is where they look; `lamp` (6) scales sunlight and skylight.
    """
    hh, ww = depth.shape
    ox = camera[0]
    oy = camera[1]
    oz = camera[2]
    sx = sun[0]
    sy = sun[1]
    sz = sun[2]
    for yy in prange(box[2], box[3]):
        for xx in range(box[0], box[1]):
            u = ((xx + jx) / ww * 2 - 1) * camera[12] * ww / hh
            v = (1 - (yy + jy) / hh * 2) * camera[12]
            dx, dy, dz, il = ray(camera, u, v)
            mask, t, last = span_of_ray(spheres, ox, oy, oz, dx, dy, dz)
            if mask == 0:
                continue
            hit = False
            g = -1
            p = -1
            for _ in range(90):
                d, g, p = distance(rows, segments, spheres, mask, ox + dx * t, oy + dy * t, oz + dz * t, 1e3)
                if d < 0.0008:
                    hit = True
                    break
                t += d * 0.92
                if t > last:
                    break
            if not hit or t * il > depth[yy, xx]:
                continue
            hits = 0.0
            for i in range(alpha.shape[2]):
                hits += alpha[yy, xx, i]
            alpha[yy, xx, g // 16] += 1.0
            if int(hits) % 2 == 1:
                continue
            x = ox + dx * t
            y = oy + dy * t
            z = oz + dz * t
            mask = mask_near(spheres, x, y, z, 0.03)
            e = 0.0022
            a = rough_distance(tex, rows, segments, spheres, mask, x + e, y - e, z - e, p, g)
            b = rough_distance(tex, rows, segments, spheres, mask, x - e, y - e, z + e, p, g)
            c = rough_distance(tex, rows, segments, spheres, mask, x - e, y + e, z - e, p, g)
            d = rough_distance(tex, rows, segments, spheres, mask, x + e, y + e, z + e, p, g)
            nx = a - b - c + d
            ny = -a - b + c + d
            nz = -a + b - c + d
            q = 1 / math.sqrt(nx * nx + ny * ny + nz * nz + 1e-14)
            nx *= q
            ny *= q
            nz *= q
            lx, ly, lz = local(rows, p, x, y, z)
            cast = g // 16
            g = g % 16
            cr, cg, cb, shine, wrap = albedo(dyes[cast], g, rows[p, 18], lx, ly, lz)
            if g == 1 or g == 10:
                weave = 1 + 0.05 * plain(tex, lx * 150.0 + lz * 90.0, ly * 170.0)
                cr *= weave
                cg *= weave
                cb *= weave
            if g == 0:
                cr *= 1 + 0.06 * plain(tex, x * 14.0, y * 14.0 + z * 9.0)
            facing = nx * sx + ny * sy + nz * sz
            open_sun = 0.0
            if facing > -wrap:
                open_sun = sunlight(
                    rows, segments, spheres, around, x + nx * 0.012, y + ny * 0.012, z + nz * 0.012, sx, sy, sz, 11.0
                )
            open_ = 1.0
            mask = mask_near(spheres, x, y, z, 0.18)
            for s in range(4):
                reach = 0.02 + 0.05 * s
                d, _m, _p = distance(rows, segments, spheres, mask, x + nx * reach, y + ny * reach, z + nz * reach, 0.4)
                open_ -= max(0.0, reach - d) / reach * 0.20
            open_ = clamp(open_, 0.0, 1.0)
            open_ = open_ * open_ * 0.55 + open_ * 0.45
            bright = clamp((facing + wrap) / (1 + wrap), 0.0, 1.0) * open_sun * 3.3
            up = 0.5 + 0.5 * ny
            fill = max(0.0, 0.15 - nx * 0.42 + ny * 0.42 - nz * 0.80) ** 1.3 * 0.40 * (0.35 + 0.65 * open_)
            r = cr * (bright * lamp[0] + (0.34 * up + 0.437 * (1 - up) + fill) * open_ * lamp[3])
            gg = cg * (bright * 0.86 * lamp[1] + (0.44 * up + 0.313 * (1 - up) + fill * 0.93) * open_ * lamp[4])
            bb = cb * (bright * 0.68 * lamp[2] + (0.62 * up + 0.190 * (1 - up) + fill * 0.86) * open_ * lamp[5])
            if g == 0:  # skin glows a little where the shadow begins
                glow = clamp(1 - abs(facing) * 3.0, 0.0, 1.0) * 0.16 * (0.4 + 0.6 * open_sun)
                r += glow * 0.55 * lamp[3]
                gg += glow * 0.10 * lamp[4]
                bb += glow * 0.04 * lamp[5]
            hx = sx - dx
            hy = sy - dy
            hz = sz - dz
            half_way = max(0.0, (nx * hx + ny * hy + nz * hz) / math.sqrt(hx * hx + hy * hy + hz * hz))
            gloss = half_way ** (200.0 if g == 7 else 26.0) * shine * open_sun * 1.3 * lamp[0]
            towards = clamp(-(nx * dx + ny * dy + nz * dz), 0.0, 1.0)
            rim = (1 - towards) ** 3 * max(0.0, ny * 0.7 + nx * 0.5 + nz * 0.2) * open_ * 0.55
            if g == 7:  # the sky's own small reflection, up and to one side
                catch = 1.0 if nx * (0.25 * faces[cast, 0] - dx) + ny * (0.50 - dy) - nz * dz > 1.105 else 0.0
                r += catch * 1.1 * lamp[3]
                gg += catch * 1.1 * lamp[4]
                bb += catch * 1.05 * lamp[5]
            light[yy, xx, 0] += r + gloss + rim * 0.42 * lamp[3]
            light[yy, xx, 1] += gg + gloss * 0.9 + rim * 0.44 * lamp[4]
            light[yy, xx, 2] += bb + gloss * 0.75 + rim * 0.46 * lamp[5]
            shaded[yy, xx] += 1.0


@njit(parallel=True, fastmath=True, cache=True)
def shadow_pass(tex, camera, sun, time, rows, segments, spheres, around, depth, sea, shadow, close):
    """Adds the figures' shadow on the place, and how closely they stand over it, to (H, W) arrays, 0…1.

    On the sea (where `sea` is 1) `close` is the figures' dark mirror image in the moving water instead.
    """
    hh, ww = depth.shape
    for yy in prange(hh):
        for xx in range(ww):
            far = depth[yy, xx]
            if far > 14.0:
                continue
            u = ((xx + 0.5) / ww * 2 - 1) * camera[12] * ww / hh
            v = (1 - (yy + 0.5) / hh * 2) * camera[12]
            rx = camera[3] + u * camera[6] + v * camera[9]
            ry = camera[4] + u * camera[7] + v * camera[10]
            rz = camera[5] + u * camera[8] + v * camera[11]
            x = camera[0] + far * rx
            y = camera[1] + far * ry
            z = camera[2] + far * rz
            if sea[yy, xx] == 1:
                nx = 0.10 * plain(tex, x * 3.0 - time, z * 3.0 + time) + 0.05 * plain(tex, x * 9.0, z * 9.0 + time)
                nz = 0.14 * plain(tex, x * 3.0 + 7.0, z * 4.0 - time) + 0.06 * plain(tex, x * 8.0 + 3.0, z * 11.0)
                facing = rx * nx + ry + rz * nz
                mx = rx - 2 * facing * nx
                my = ry - 2 * facing
                mz = rz - 2 * facing * nz
                q = 1 / math.sqrt(mx * mx + my * my + mz * mz)
                hidden = 1 - sunlight(rows, segments, spheres, around, x, y, z, mx * q, my * q, mz * q, 60.0)
                close[yy, xx] += 0.62 * hidden
                continue
            lit = sunlight(rows, segments, spheres, around, x, y + 0.01, z, sun[0], sun[1], sun[2], 24.0)
            shadow[yy, xx] += 1 - lit
            ex = x - around[0]
            ez = z - around[2]
            if ex * ex + ez * ez < around[3] * around[3] * 1.4:
                d, _m, _p = distance(rows, segments, spheres, -1, x, y + 0.10, z, 1.0)
                close[yy, xx] += 0.6 * (1 - smooth(0.0, 0.55, d))
