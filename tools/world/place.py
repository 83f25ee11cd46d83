"""Gull Point: sky, dunes, driftwood and sea, as kernels over the pixels of one picture.

A picture is made in layers that change at different rates: `ground_pass` draws what stands still and marks
where the sea is; `sea_pass` fills the sea for one instant. Ambient light and direct sun are kept apart,
so that the runner's shadow can take away the sun alone.

A camera is a vector of 13 numbers: position (3), forward (3), right (3), up (3), tangent of half the
vertical field.
"""

import math

import numpy as np
from numba import njit, prange

from .noise import clamp, cloudy, plain, smooth
from .solids import distance, local, sunlight

SEA_LEVEL = -1.25
SUN = np.array([0.33, 0.74, 0.30]) / np.linalg.norm([0.33, 0.74, 0.30])
FAR = 1e5


@njit(fastmath=True, cache=True)
def sky(tex, dx, dy, dz, lx, ly, lz):
    """Light from the sky in a direction: gradient, glow round the sun, cumulus bank, high wisps."""
    el = max(dy, 0.0)
    a = smooth(0.0, 0.17, el)
    b = smooth(0.08, 0.5, el)
    r = 1.02 + (0.50 - 1.02) * a
    g = 0.86 + (0.70 - 0.86) * a
    bl = 0.68 + (0.86 - 0.68) * a
    r += (0.10 - r) * b
    g += (0.34 - g) * b
    bl += (0.68 - bl) * b
    glow = max(0.0, dx * lx + dy * ly + dz * lz) ** 6
    r += 0.35 * glow
    g += 0.25 * glow
    bl += 0.12 * glow
    u = math.atan2(dx, dz) * 2.6 + 3.3
    v = dy * 4.6
    w = 0.25 * cloudy(tex, u * 1.7 + 5.1, v * 1.7)
    large = 0.55 * cloudy(tex, u * 0.45 + 9.2, v * 0.5 + 2.0)
    band = smooth(0.015, 0.09, el) * (1 - smooth(0.20, 0.40, el))
    dense = (cloudy(tex, u + w * 0.25, v * 1.25 + 0.35) + large) * 0.9 + 0.50 * band - 0.36
    if dense > 0:
        above = cloudy(tex, u + 0.14 * lx + w * 0.25, (v + 0.16) * 1.25 + 0.35) + large
        above = above * 0.9 + 0.50 * band - 0.36
        cover = smooth(0.0, 0.22, dense) * 0.92
        lit = clamp(0.55 + 1.9 * (dense - above), 0.0, 1.0)
        cr = 0.66 + 0.86 * lit
        cg = 0.69 + 0.74 * lit
        cb = 0.84 + 0.46 * lit
        haze = (1 - smooth(0.0, 0.16, el)) * 0.6
        cr += (1.0 - cr) * haze
        cg += (0.86 - cg) * haze
        cb += (0.72 - cb) * haze
        r += (cr - r) * cover
        g += (cg - g) * cover
        bl += (cb - bl) * cover
    if dy > 0.12:
        c = cloudy(tex, dx / dy * 0.22 + 1.3, dz / dy * 0.10 + 7.7)
        c = smooth(0.05, 0.7, c) * smooth(0.12, 0.3, dy) * 0.4
        r += (1.05 - r) * c
        g += (1.0 - g) * c
        bl += (0.97 - bl) * c
    return r, g, bl


@njit(fastmath=True, cache=True)
def height(tex, x, z):
    """Height of the dunes at (x, z)."""
    h = -2.0 * smooth(3.5, 24.0, z)
    h += 1.35 * math.exp(-((x - 4.6) ** 2 / 5.0 + (z - 8.5) ** 2 / 9.0))
    h += 0.95 * math.exp(-((x + 4.1) ** 2 / 3.2 + (z - 7.5) ** 2 / 7.0))
    h += 0.20 * math.exp(-((x - 1.15) ** 2 / 0.12 + (z + 1.55) ** 2 / 0.5))
    h += 0.16 * math.exp(-((x + 1.05) ** 2 / 0.10 + (z + 1.7) ** 2 / 0.4))
    h += 0.10 * cloudy(tex, x * 0.10 + 0.3, z * 0.10) * (1 - smooth(10.0, 22.0, z) * 0.7)
    return h


@njit(fastmath=True, cache=True)
def relief(tex, x, z, far, prints):
    """Fine relief of the sand: wind ripples, grains, footprints (n, 4: x, z, cos, sin of the heading)."""
    wx = x + 0.35 * plain(tex, x * 0.55 + 3.0, z * 0.55)
    wz = z + 0.45 * plain(tex, x * 0.4, z * 0.4 + 8.0)
    phase = (wz * 0.93 + wx * 0.30) * 46.0 + 2.6 * plain(tex, x * 1.1, z * 1.1 + 20.0)
    tall = clamp(0.5 + 0.8 * plain(tex, x * 0.35 + 11.0, z * 0.35), 0.08, 1.0)
    fade = 1.0 / (1.0 + (far / 9.0) ** 2)
    wave = math.sin(phase) + 0.22 * math.sin(2 * phase + 0.8)
    foot = 0.0
    kill = 0.0
    for i in range(prints.shape[0]):
        ex = x - prints[i, 0]
        ez = z - prints[i, 1]
        if abs(ex) < 0.4 and abs(ez) < 0.4:
            c = prints[i, 2]
            s = prints[i, 3]
            fx = (ex * c + ez * s) / 0.155
            fz = (-ex * s + ez * c) / 0.075
            r = math.sqrt(fx * fx + fz * fz) + 0.18 * plain(tex, x * 9.0, z * 9.0)
            foot += -0.06 * (1 - smooth(0.55, 1.05, r))
            foot += 0.024 * smooth(0.7, 1.15, r) * (1 - smooth(1.15, 1.9, r))
            kill = max(kill, 1 - smooth(1.0, 1.8, r))
    beach = 1 - smooth(9.0, 13.0, z)
    h = 0.0095 * wave * tall * fade * beach * (1 - kill) + foot
    h += 0.012 * cloudy(tex, x * 0.9, z * 0.9) + 0.0035 * plain(tex, x * 22.0, z * 22.0) * fade
    return h + 0.0022 * plain(tex, x * 60.0, z * 60.0) / (1 + (far / 5.0) ** 2)


@njit(fastmath=True, cache=True)
def march_ground(tex, ox, oy, oz, dx, dy, dz, far):
    """Distance along the ray to the dunes, or 1e9."""
    if dy > 0.06:
        return 1e9
    t = 1.0
    for _ in range(90):
        z = oz + dz * t
        h = oy + dy * t - height(tex, ox + dx * t, z)
        if h < 0.0007 * t:
            return t
        t += max(h * 0.75, 0.004 * t)
        if t > far or z > 30.0:
            break
    return 1e9


@njit(fastmath=True, cache=True)
def ray(camera, u, v):
    """Unit direction of the ray through (u, v), both -1…1 times the field; and 1/length before that."""
    dx = camera[3] + u * camera[6] + v * camera[9]
    dy = camera[4] + u * camera[7] + v * camera[10]
    dz = camera[5] + u * camera[8] + v * camera[11]
    il = 1.0 / math.sqrt(dx * dx + dy * dy + dz * dz)
    return dx * il, dy * il, dz * il, il


@njit(fastmath=True, cache=True)
def sand(tex, x, y, z, far, prints):
    """Sand at a point: albedo (3), normal (3, not unit), wetness."""
    e = 0.012 + 0.0012 * far
    h0 = height(tex, x, z) + relief(tex, x, z, far, prints)
    h1 = height(tex, x + e, z) + relief(tex, x + e, z, far, prints)
    h2 = height(tex, x, z + e) + relief(tex, x, z + e, far, prints)
    nx = -(h1 - h0) / e
    nz = -(h2 - h0) / e
    m = 0.5 + 0.5 * clamp(cloudy(tex, x * 0.22 + 2.0, z * 0.22) * 1.3, -1.0, 1.0)
    grain = plain(tex, x * 70.0, z * 70.0) * 0.10 / (1 + (far / 6.0) ** 2)
    grain = 1 + grain + 0.06 * cloudy(tex, x * 2.0, z * 2.0)
    r = (0.545 + 0.11 * m) * grain
    g = (0.375 + 0.095 * m) * grain
    b = (0.215 + 0.075 * m) * grain
    speck = plain(tex, x * 9.0 + 4.0, z * 9.0) * plain(tex, x * 3.1, z * 3.1 + 9.0)
    dark = smooth(0.42, 0.55, speck) * (1 - smooth(6.0, 12.0, far))
    weed = z - 10.6 + 0.9 * plain(tex, x * 0.35, 1.5)
    weed = (1 - smooth(0.0, 0.5, abs(weed))) * smooth(-0.1, 0.3, cloudy(tex, x * 0.9, z * 0.9))
    wet = 1 - smooth(0.05, 0.55, y - SEA_LEVEL + 0.14 * cloudy(tex, x * 0.3, z * 0.3))
    r *= (1 - 0.55 * dark) * (1 - 0.6 * weed) * (1 - 0.5 * wet)
    g *= (1 - 0.55 * dark) * (1 - 0.6 * weed) * (1 - 0.47 * wet)
    b *= (1 - 0.5 * dark) * (1 - 0.55 * weed) * (1 - 0.40 * wet)
    return r, g, b, nx * (1 - 0.8 * wet), 1.0, nz * (1 - 0.8 * wet), wet


@njit(fastmath=True, cache=True)
def driftwood(tex, rows, segments, spheres, which, x, y, z):
    """Driftwood at a point: albedo (3), normal (3, not unit), bleached along the grain."""
    e = 0.0025
    d0, _m, _p = distance(rows, segments, spheres, -1, x, y, z, 1e3)
    d1, _m, _p = distance(rows, segments, spheres, -1, x + e, y, z, 1e3)
    d2, _m, _p = distance(rows, segments, spheres, -1, x, y + e, z, 1e3)
    d3, _m, _p = distance(rows, segments, spheres, -1, x, y, z + e, 1e3)
    nx = d1 - d0
    ny = d2 - d0
    nz = d3 - d0
    q = 1 / math.sqrt(nx * nx + ny * ny + nz * nz + 1e-12)
    lx, along, lz = local(rows, which, x, y, z)
    turn = math.atan2(lx, lz)
    warp = 0.5 * plain(tex, along * 3.0, turn * 1.2)
    grain = 0.0
    next_grain = 0.0
    for k in range(2):
        a = turn + 0.04 * k
        g = 0.8 * plain(tex, a * 2.6 + along * 1.6 + warp, along * 1.5)
        g += 0.55 * plain(tex, a * 7.0 + warp * 2.0, along * 3.1 + 5.0)
        g += 0.3 * plain(tex, a * 17.0 + warp * 2.0, along * 4.0 + 5.0)
        if k == 0:
            grain = g
        else:
            next_grain = g
    bump = clamp((next_grain - grain) * 1.7, -0.7, 0.7)
    c = math.cos(turn)
    s = math.sin(turn)
    nx = nx * q - (rows[which, 3] * c - rows[which, 9] * s) * bump
    ny = ny * q - (rows[which, 4] * c - rows[which, 10] * s) * bump
    nz = nz * q - (rows[which, 5] * c - rows[which, 11] * s) * bump
    pale = clamp(0.5 + 0.55 * grain, 0.0, 1.0)
    crack = smooth(0.40, 0.70, plain(tex, turn * 4.0 + 2.0 + warp * 1.5, along * 1.1 + 3.0))
    r = (0.27 + 0.40 * pale) * (1 - 0.60 * crack)
    g = (0.195 + 0.325 * pale) * (1 - 0.62 * crack)
    b = (0.140 + 0.255 * pale) * (1 - 0.62 * crack)
    return r, g, b, nx, ny, nz


@njit(parallel=True, fastmath=True, cache=True)
def ground_pass(
    tex, camera, jx, jy, sun, rows, segments, spheres, piles, prints, shade, shade_at, ambient, direct, depth, sea
):
    """Draws sky, dunes and driftwood.

    `piles` (n, 4) are spheres round each heap of driftwood. `shade` (h, w, 2) is the grass's shadow and
    closeness seen from above, `shade_at` (x, z, texels a metre). Fills ambient and direct (H, W, 3), depth
    (H, W) along the camera's forward axis, and sea (H, W), 1 where `sea_pass` has to draw.
    """
    hh, ww = depth.shape
    ox = camera[0]
    oy = camera[1]
    oz = camera[2]
    lx = sun[0]
    ly = sun[1]
    lz = sun[2]
    for yy in prange(hh):
        for xx in range(ww):
            u = ((xx + jx) / ww * 2 - 1) * camera[12] * ww / hh
            v = (1 - (yy + jy) / hh * 2) * camera[12]
            dx, dy, dz, il = ray(camera, u, v)
            t = 1e9
            kind = 0
            if dy < 0:
                t = (SEA_LEVEL - oy) / dy
                kind = 2
            tg = march_ground(tex, ox, oy, oz, dx, dy, dz, min(t, 40.0))
            if tg < t:
                t = tg
                kind = 1
            which = -1
            for b in range(piles.shape[0]):
                ex = piles[b, 0] - ox
                ey = piles[b, 1] - oy
                ez = piles[b, 2] - oz
                along = ex * dx + ey * dy + ez * dz
                d2 = ex * ex + ey * ey + ez * ez - along * along
                r2 = piles[b, 3] * piles[b, 3]
                if d2 < r2:
                    half = math.sqrt(r2 - d2)
                    s = max(0.3, along - half)
                    last = min(t, along + half)
                    for _ in range(60):
                        if s > last:
                            break
                        d, _m, p = distance(rows, segments, spheres, -1, ox + dx * s, oy + dy * s, oz + dz * s, 1e3)
                        if d < 0.0008 * s:
                            t = s
                            kind = 3
                            which = p
                            break
                        s += d * 0.9
            sea[yy, xx] = 1 if kind == 2 else 0
            depth[yy, xx] = t * il
            for c in range(3):
                direct[yy, xx, c] = 0.0
            if kind == 2:
                continue
            if kind == 0:
                r, g, bl = sky(tex, dx, dy, dz, lx, ly, lz)
                ambient[yy, xx, 0] = r
                ambient[yy, xx, 1] = g
                ambient[yy, xx, 2] = bl
                depth[yy, xx] = FAR
                continue
            x = ox + dx * t
            y = oy + dy * t
            z = oz + dz * t
            wet = 0.0
            if kind == 1:
                br, bg, bb, nx, ny, nz, wet = sand(tex, x, y, z, t, prints)
            else:
                br, bg, bb, nx, ny, nz = driftwood(tex, rows, segments, spheres, which, x, y, z)
            q = 1 / math.sqrt(nx * nx + ny * ny + nz * nz)
            nx *= q
            ny *= q
            nz *= q
            px = x + nx * 0.006
            py = y + ny * 0.006
            pz = z + nz * 0.006
            lit = 1.0
            for b in range(piles.shape[0]):
                lit = min(lit, sunlight(rows, segments, spheres, piles[b], px, py, pz, lx, ly, lz, 17.0))
                if lit < 0.01:
                    break
            if kind == 1 and z < 13.0:
                s = 0.12
                for _ in range(10):
                    over = py + ly * s - height(tex, px + lx * s, pz + lz * s)
                    lit = min(lit, clamp(0.6 + 7.0 * over / s, 0.0, 1.0))
                    s *= 1.5
            close = 0.0
            gu = (x - shade_at[0]) * shade_at[2]
            gv = (z - shade_at[1]) * shade_at[2]
            if 1 < gu < shade.shape[1] - 2 and 1 < gv < shade.shape[0] - 2:
                iu = int(gu)
                iv = int(gv)
                fu = gu - iu
                fv = gv - iv
                top = shade[iv, iu, 0] * (1 - fu) + shade[iv, iu + 1, 0] * fu
                low = shade[iv + 1, iu, 0] * (1 - fu) + shade[iv + 1, iu + 1, 0] * fu
                lit *= 1 - (top * (1 - fv) + low * fv)
                close = shade[iv, iu, 1]
            open_ = 1.0
            for k in range(3):
                reach = 0.05 + 0.11 * k
                d, _m, _p = distance(
                    rows, segments, spheres, -1, px + nx * reach, py + ny * reach, pz + nz * reach, 0.5
                )
                open_ -= max(0.0, reach - d) / reach * 0.22
            if kind == 3:
                open_ *= 0.45 + 0.55 * smooth(-0.02, 0.18, y - height(tex, x, z))
            open_ *= 1 - 0.6 * close
            bright = max(0.0, nx * lx + ny * ly + nz * lz) * lit * 2.35
            up = 0.5 + 0.5 * ny
            ar = br * (0.27 * up + 0.18 * (1 - up) + 0.05) * open_
            ag = bg * (0.36 * up + 0.15 * (1 - up) + 0.05) * open_
            ab = bb * (0.54 * up + 0.10 * (1 - up) + 0.05) * open_
            if wet > 0.01:
                facing = nx * dx + ny * dy + nz * dz
                kr, kg, kb = sky(tex, dx - 2 * facing * nx, abs(dy - 2 * facing * ny), dz - 2 * facing * nz, lx, ly, lz)
                mirror = (0.06 + 0.8 * (1 - clamp(-facing, 0.0, 1.0)) ** 4) * wet
                ar += kr * mirror
                ag += kg * mirror
                ab += kb * mirror
            clear = math.exp(-t * 0.007)
            ambient[yy, xx, 0] = ar * clear + 0.774 * (1 - clear)
            ambient[yy, xx, 1] = ag * clear + 0.738 * (1 - clear)
            ambient[yy, xx, 2] = ab * clear + 0.684 * (1 - clear)
            direct[yy, xx, 0] = br * bright * clear
            direct[yy, xx, 1] = bg * bright * 0.86 * clear
            direct[yy, xx, 2] = bb * bright * 0.66 * clear


@njit(parallel=True, fastmath=True, cache=True)
def sea_pass(tex, camera, jx, jy, time, sun, sea, ring, ambient):
    """Fills ambient (H, W, 3) with the sea at `time`, where `sea` is 1: waves, glitter, foam, haze.

    `ring` (4: x, z, age in seconds, strength) is where something fell in: foam within, ripples that run out.
    """
    hh, ww = sea.shape
    lx = sun[0]
    ly = sun[1]
    lz = sun[2]
    e = 0.06
    for yy in prange(hh):
        for xx in range(ww):
            if sea[yy, xx] == 0:
                continue
            u = ((xx + jx) / ww * 2 - 1) * camera[12] * ww / hh
            v = (1 - (yy + jy) / hh * 2) * camera[12]
            dx, dy, dz, _il = ray(camera, u, v)
            t = (SEA_LEVEL - camera[1]) / dy
            x = camera[0] + dx * t
            z = camera[2] + dz * t
            calm = 1.0 / (1.0 + t * 0.03)
            a = 0.5 * time
            h0 = cloudy(tex, x * 0.16 + a * 0.05, z * 0.30 - a * 0.11) + 0.35 * plain(tex, x * 1.5 - a, z * 2.2 + a)
            hx = cloudy(tex, (x + e) * 0.16 + a * 0.05, z * 0.30 - a * 0.11)
            hx += 0.35 * plain(tex, (x + e) * 1.5 - a, z * 2.2 + a)
            hz = cloudy(tex, x * 0.16 + a * 0.05, (z + e) * 0.30 - a * 0.11)
            hz += 0.35 * plain(tex, x * 1.5 - a, (z + e) * 2.2 + a)
            swell = z + 1.8 * plain(tex, x * 0.045 + 2.0, z * 0.05) + 0.5 * plain(tex, x * 0.2, z * 0.2)
            phase = swell * 0.62 + time * 1.1
            nx = -(hx - h0) / e * 0.14 * calm
            nz = -(hz - h0) / e * 0.20 * calm - 0.16 * math.cos(phase) * calm
            thrown = 0.0
            if ring[3] > 0:
                ex = x - ring[0]
                ez = (z - ring[1]) * 1.15
                off = math.sqrt(ex * ex + ez * ez) + 1e-6
                front = 0.25 + 1.5 * ring[2]
                rise = math.exp(-((off - front) ** 2) / (0.02 + 0.10 * ring[2])) * ring[3]
                push = math.cos((off - front) * 26.0) * rise * 0.55
                nx += push * ex / off
                nz += push * ez / off
                rough = plain(tex, x * 6.0, z * 6.0 + time) + 0.6 * plain(tex, x * 17.0, z * 17.0 - time)
                thrown = ring[3] * (1 - smooth(front * 0.55, front * 1.05, off + 0.14 * rough))
                thrown *= smooth(-0.5, 0.35, rough + 0.5 - 0.9 * ring[2])
            q = 1 / math.sqrt(nx * nx + 1 + nz * nz)
            nx *= q
            ny = q
            nz *= q
            facing = clamp(-(nx * dx + ny * dy + nz * dz), 0.02, 1.0)
            mirror = min(0.03 + 0.97 * (1 - facing) ** 5, 0.46)
            rx = dx + 2 * facing * nx
            ry = abs(dy + 2 * facing * ny) + 0.05
            rz = dz + 2 * facing * nz
            kr, kg, kb = sky(tex, rx, ry, rz, lx, ly, lz)
            deep = smooth(13.0, 34.0, z + 2.0 * plain(tex, x * 0.12, z * 0.12))
            crest = 0.5 + 0.5 * math.sin(phase)
            r = (0.10 - 0.090 * deep) * (0.7 + 0.5 * crest) * (1 - mirror) + kr * mirror
            g = (0.46 - 0.29 * deep) * (0.7 + 0.5 * crest) * (1 - mirror) + kg * mirror
            b = (0.45 - 0.13 * deep) * (0.75 + 0.4 * crest) * (1 - mirror) + kb * mirror
            # The glitter uses a sun further ahead than the light's, or none would reach the lens.
            sharp = max(0.0, rx * 0.16 + ry * 0.20 + rz * 0.965) / math.sqrt(rx * rx + ry * ry + rz * rz)
            twinkle = plain(tex, x * 2.2 + time * 2.0, z * 2.2 - time) * plain(tex, x * 0.9 - time, z * 1.2 + 3.0)
            glint = (sharp**60) * 1.2 + smooth(0.08, 0.30, twinkle + 0.05) * (sharp**8) * 3.2
            r += glint
            g += glint * 0.88
            b += glint * 0.68
            foam = smooth(0.72, 1.0, math.sin(phase + 0.5) + 0.35 * cloudy(tex, x * 0.5, z * 0.9 + time * 0.1))
            foam *= smooth(0.0, 0.55, 0.55 + cloudy(tex, x * 0.25 + 4.0, z * 0.08)) * (1 - smooth(22.0, 50.0, z))
            deepness = SEA_LEVEL - height(tex, x, z)
            edge = 1 - smooth(0.0, 0.16, deepness + 0.10 * cloudy(tex, x * 0.6 + time * 0.06, z * 0.6))
            lace = smooth(-0.1, 0.35, cloudy(tex, x * 1.3, z * 1.3 + time * 0.05))
            foam = clamp(max(foam * (0.45 + 0.55 * lace), edge * (0.55 + 0.45 * lace)), 0.0, 1.0) * 0.9
            foam = max(foam, clamp(thrown, 0.0, 1.0) * 0.92)
            haze = (1 - math.exp(-t * 0.0026)) * 0.75
            r += (0.98 - r) * foam
            g += (0.95 - g) * foam
            b += (0.90 - b) * foam
            ambient[yy, xx, 0] = r + (0.86 - r) * haze
            ambient[yy, xx, 1] = g + (0.84 - g) * haze
            ambient[yy, xx, 2] = b + (0.80 - b) * haze


@njit(parallel=True, fastmath=True, cache=True)
def triangle_pass(triangles, jx, jy, sunny, ambient, direct, depth):
    """Draws triangles (n, 3, 6: screen x, y, depth, red, green, blue) over what is there, nearest first.

    `sunny` is the share of their light that a shadow can take away.
    """
    hh, ww = depth.shape
    bands = 8
    for band in prange(bands):
        first = band * hh // bands
        past = (band + 1) * hh // bands
        for i in range(triangles.shape[0]):
            x0 = triangles[i, 0, 0] - jx
            y0 = triangles[i, 0, 1] - jy
            x1 = triangles[i, 1, 0] - jx
            y1 = triangles[i, 1, 1] - jy
            x2 = triangles[i, 2, 0] - jx
            y2 = triangles[i, 2, 1] - jy
            z0 = triangles[i, 0, 2]
            z1 = triangles[i, 1, 2]
            z2 = triangles[i, 2, 2]
            if z0 < 0.2 or z1 < 0.2 or z2 < 0.2:
                continue
            low = max(first, int(math.ceil(min(y0, min(y1, y2)))))
            high = min(past - 1, int(math.floor(max(y0, max(y1, y2)))))
            left = max(0, int(math.ceil(min(x0, min(x1, x2)))))
            right = min(ww - 1, int(math.floor(max(x0, max(x1, x2)))))
            area = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)
            if abs(area) < 1e-9:
                continue
            for y in range(low, high + 1):
                for x in range(left, right + 1):
                    w1 = ((x - x0) * (y2 - y0) - (x2 - x0) * (y - y0)) / area
                    w2 = ((x1 - x0) * (y - y0) - (x - x0) * (y1 - y0)) / area
                    w0 = 1 - w1 - w2
                    if w0 < -1e-6 or w1 < -1e-6 or w2 < -1e-6:
                        continue
                    z = 1 / (w0 / z0 + w1 / z1 + w2 / z2)
                    if z < depth[y, x]:
                        depth[y, x] = z
                        for c in range(3):
                            value = w0 * triangles[i, 0, 3 + c] + w1 * triangles[i, 1, 3 + c]
                            value += w2 * triangles[i, 2, 3 + c]
                            ambient[y, x, c] = value * (1 - sunny)
                            direct[y, x, c] = value * sunny
