//! A portrait of nobody: a bust of rounded solids, turned a little, lit from one side.
//!
//! ```text
//!   solids that run into each other ──a ray for each pixel──► where it meets them, how light falls there ──► tones
//! ```
//!
//! All of it is gradients, half the face lies in shadow. Source of the way it is drawn: Hart 1996, "Sphere tracing" (The
//! Visual Computer 12, 527–545); solids are joined by a smooth minimum.

use rayon::prelude::*;

use crate::Raster;

/// Size of the photograph, px.
pub const PORTRAIT_PX: (u32, u32) = (640, 800);

type V = [f64; 3];

/// What a place of the bust is covered with.
#[derive(Clone, Copy)]
enum Cover {
    Skin,
    Lip,
    Hair,
    Cloth,
    Brow,
    Iris,
}

impl Cover {
    /// Red, green and blue in full light.
    const fn colour(self) -> V {
        match self {
            Self::Skin => [232.0, 184.0, 152.0],
            Self::Lip => [176.0, 84.0, 80.0],
            Self::Hair => [82.0, 54.0, 40.0],
            Self::Cloth => [58.0, 92.0, 104.0],
            Self::Brow => [70.0, 46.0, 36.0],
            Self::Iris => [44.0, 38.0, 40.0],
        }
    }
}

/// The photograph.
#[must_use]
pub fn photograph() -> Raster {
    let (w, h) = PORTRAIT_PX;
    let mut random = fastrand::Rng::with_seed(77);
    let colour = |i: u32| {
        // One unit and a half from the middle to the side; the eyes lie in the upper half.
        let x = (f64::from(i % w) + 0.5) / f64::from(w) * 3.0 - 1.5;
        let y = 1.72 - (f64::from(i / w) + 0.5) / f64::from(w) * 3.0;
        met(x, y).map_or_else(|| wall(x, y), lit)
    };
    let colours: Vec<V> = (0..w * h).into_par_iter().map(colour).collect();
    let pixels = colours.into_iter().map(|colour| {
        colour.map(|v| {
            let grain = (0..6).map(|_| random.f64() - 0.5).sum::<f64>() * 2.5;
            (v + grain).round().clamp(0.0, 255.0) as u8
        })
    });
    Raster {
        width: w,
        height: h,
        pixels: pixels.collect(),
    }
}

/// A plain wall, lighter behind the dark side of the face.
fn wall(x: f64, y: f64) -> V {
    let light = 176.0 + 22.0 * x + 10.0 * y;
    [light, light * 1.01, light * 1.03]
}

/// Where the ray through a place of the picture meets the bust.
fn met(x: f64, y: f64) -> Option<V> {
    let (mut z, mut d) = (1.3, 0.0);
    for _ in 0..120 {
        d = solid([x, y, z]).0;
        if d < 1e-3 {
            break;
        }
        z -= d * 0.8;
        if z < -1.5 {
            return None;
        }
    }
    // A ray that goes along the edge comes no nearer.
    (d < 0.02).then_some([x, y, z])
}

/// The colour at a place of the surface: a lamp from the left above, a little light from everywhere.
fn lit(at: V) -> V {
    const STEP: f64 = 2e-3;
    let (here, cover) = solid(at);
    let slope = |c: usize| {
        let mut p = at;
        p[c] += STEP;
        solid(p).0 - here
    };
    let normal = unit([slope(0), slope(1), slope(2)]);
    let lamp = unit([-0.72, 0.52, 0.62]);
    let falls = dot(normal, lamp).max(0.0) * shadow(at, lamp);
    let sky = 0.5 + 0.5 * normal[1];
    let front = normal[2].max(0.0);
    let light = 0.10 + 0.06 * sky + 0.10 * front + 0.92 * falls;
    cover.colour().map(|c| c * light)
}

/// How much of the lamp is seen from a place, soft at the edges of what stands before it.
fn shadow(from: V, lamp: V) -> f64 {
    let (mut seen, mut t) = (1.0_f64, 0.03);
    for _ in 0..40 {
        let d = solid([0, 1, 2].map(|c| from[c] + lamp[c] * t)).0;
        seen = seen.min(9.0 * d / t);
        if seen < 0.01 {
            return 0.0;
        }
        t += d.clamp(0.02, 0.2);
        if t > 2.5 {
            break;
        }
    }
    seen.clamp(0.0, 1.0)
}

/// Distance to the bust, below nought inside it, and what covers it there.
fn solid(p: V) -> (f64, Cover) {
    let cloth = cloth(p);
    // Far from the head it is enough to know about how far.
    let far = ball(p, [0.0, 0.0, 0.0], [1.45; 3]);
    let head = if far > 0.2 {
        (far, Cover::Skin)
    } else {
        head(p)
    };
    if cloth < head.0 {
        (cloth, Cover::Cloth)
    } else {
        head
    }
}

fn cloth(p: V) -> f64 {
    joined(
        ball(p, [0.0, -2.15, -0.30], [1.45, 0.86, 0.66]),
        ball(p, [0.0, -1.46, -0.16], [0.52, 0.20, 0.46]),
        0.20,
    )
}

/// The same for head, neck and hair.
fn head(p: V) -> (f64, Cover) {
    // The head is turned to its left and bent a little.
    let q = turned(p, 0.40);
    let side = q[0].abs();
    let m = [side, q[1], q[2]];
    let mut face = ball(q, [0.0, 0.08, 0.0], [0.76, 0.92, 0.84]);
    face = joined(face, ball(q, [0.0, -0.50, 0.22], [0.50, 0.50, 0.52]), 0.22);
    face = joined(face, ball(m, [0.36, -0.20, 0.52], [0.24, 0.22, 0.24]), 0.16);
    face = joined(face, ball(q, [0.0, -0.86, 0.56], [0.18, 0.14, 0.16]), 0.14);
    face = without(face, ball(m, [0.30, 0.10, 0.88], [0.21, 0.13, 0.18]), 0.12);
    face = joined(face, ball(m, [0.29, 0.08, 0.62], [0.17, 0.13, 0.15]), 0.03);
    face = joined(
        face,
        rod(q, [0.0, 0.16, 0.78], [0.0, -0.20, 0.98], [0.06, 0.10]),
        0.10,
    );
    face = joined(face, ball(m, [0.10, -0.25, 0.86], [0.09, 0.06, 0.10]), 0.06);
    face = joined(
        face,
        ball(m, [0.78, -0.02, -0.02], [0.09, 0.20, 0.13]),
        0.05,
    );
    let lips = joined(
        ball(q, [0.0, -0.53, 0.66], [0.23, 0.055, 0.12]),
        ball(q, [0.0, -0.62, 0.65], [0.18, 0.06, 0.12]),
        0.03,
    );
    let neck = rod(p, [0.0, -0.6, -0.12], [0.0, -1.5, -0.22], [0.34, 0.40]);
    let hair = without(
        joined(
            ball(q, [0.0, 0.26, -0.14], [0.88, 0.90, 0.92]),
            ball(q, [-0.1, 0.80, -0.72], [0.44, 0.40, 0.40]),
            0.1,
        ),
        ball(q, [0.0, -0.30, 0.95], [0.70, 0.94, 0.80]),
        0.08,
    );
    let skin = joined(joined(face, lips, 0.05), neck, 0.14);
    let brow = m[1] > 0.25 + 0.10 * (m[0] - 0.2) && m[1] < 0.33 - 0.12 * (m[0] - 0.25).abs();
    let iris = (m[0] - 0.28).hypot(q[1] - 0.085) < 0.062 && q[2] > 0.6;
    let on_skin = if lips < face {
        Cover::Lip
    } else if iris {
        Cover::Iris
    } else if brow && q[2] > 0.4 && (0.12..0.52).contains(&m[0]) {
        Cover::Brow
    } else {
        Cover::Skin
    };
    if hair < skin {
        (hair, Cover::Hair)
    } else {
        (skin, on_skin)
    }
}

fn turned([x, y, z]: V, angle: f64) -> V {
    let (sin, cos) = angle.sin_cos();
    [x * cos - z * sin, y, x * sin + z * cos]
}

/// About the distance to an ellipsoid.
fn ball(p: V, middle: V, radii: V) -> f64 {
    let d = [0, 1, 2].map(|c| p[c] - middle[c]);
    let one = [0, 1, 2].map(|c| d[c] / radii[c]);
    let two = [0, 1, 2].map(|c| one[c] / radii[c]);
    let (k0, k1) = (dot(one, one).sqrt(), dot(two, two).sqrt());
    k0 * (k0 - 1.0) / k1.max(1e-9)
}

/// The distance to a rod from one ball to another.
fn rod(p: V, from: V, to: V, radii: [f64; 2]) -> f64 {
    let along = [0, 1, 2].map(|c| to[c] - from[c]);
    let d = [0, 1, 2].map(|c| p[c] - from[c]);
    let t = (dot(d, along) / dot(along, along)).clamp(0.0, 1.0);
    let off = [0, 1, 2].map(|c| d[c] - t * along[c]);
    dot(off, off).sqrt() - (radii[0] + t * (radii[1] - radii[0]))
}

/// Two solids that run into each other over a width.
fn joined(a: f64, b: f64, over: f64) -> f64 {
    let t = (0.5 + 0.5 * (b - a) / over).clamp(0.0, 1.0);
    b + (a - b) * t - over * t * (1.0 - t)
}

/// One solid without another.
fn without(a: f64, b: f64, over: f64) -> f64 {
    -joined(-a, b, over)
}

fn dot(a: V, b: V) -> f64 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

fn unit(v: V) -> V {
    let length = dot(v, v).sqrt().max(1e-12);
    v.map(|c| c / length)
}
