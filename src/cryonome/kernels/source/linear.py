"""Small dense linear algebra: sums, factorisations, eigenvalues of symmetric matrices. Matrices are changed in
place."""

from math import hypot, sqrt

from .marks import F1, F2, inner, summing, unit


@summing
def dot(a: F1, b: F1, n: int) -> float:
    """Return the sum of the products of n numbers."""
    s = 0.0
    for i in range(n):
        s += a[i] * b[i]
    return s


@summing
def total(a: F1, n: int) -> float:
    """Return the sum of n numbers."""
    s = 0.0
    for i in range(n):
        s += a[i]
    return s


@summing
def add_scaled(out: F1, factor: float, a: F1, n: int) -> None:
    """Add ``factor`` times a to ``out``."""
    for i in range(n):
        out[i] += factor * a[i]


@inner
def normalise(a: F1, n: int) -> float:
    """Divide a by its sum, which is returned."""
    s = total(a, n)
    for i in range(n):
        a[i] /= s
    return s


@inner
def cholesky(A: F2, n: int) -> bool:
    """Factor a symmetric matrix into L L^T, L in its lower triangle; False where it is not positive definite."""
    for j in range(n):
        row = A[j]
        s = row[j] - dot(row, row, j)
        if not s > 1e-300:
            return False
        d = sqrt(s)
        row[j] = d
        inverse = 1.0 / d
        for i in range(j + 1, n):
            other = A[i]
            other[j] = (other[j] - dot(other, row, j)) * inverse
    return True


@inner
def solve_cholesky(L: F2, b: F1, n: int) -> None:
    """Solve L L^T x = b; b becomes x."""
    for i in range(n):
        row = L[i]
        b[i] = (b[i] - dot(row, b, i)) / row[i]
    for i in range(n - 1, -1, -1):
        row = L[i]
        b[i] /= row[i]
        add_scaled(b, -b[i], row, i)


@inner
def factor(A: F2, order: F1, n: int) -> bool:
    """Factor a matrix into triangles, rows exchanged for the largest pivot (``order`` tells how); False where it is
    singular or not finite."""
    for k in range(n):
        best, most = k, abs(A[k, k])
        for i in range(k + 1, n):
            size = abs(A[i, k])
            if size > most:
                best, most = i, size
        order[k] = float(best)
        if not (most > 0.0 and most < 1e308):
            return False
        if best != k:
            for j in range(n):
                A[k, j], A[best, j] = A[best, j], A[k, j]
        inverse = 1.0 / A[k, k]
        for i in range(k + 1, n):
            f = A[i, k] * inverse
            A[i, k] = f
            if f != 0.0:
                add_scaled(A[i, k + 1 :], -f, A[k, k + 1 :], n - k - 1)
    return True


@inner
def solve_factored(A: F2, order: F1, b: F1, n: int) -> None:
    """Solve for b with what :func:`factor` made; b becomes x."""
    for k in range(n):
        r = int(order[k])
        b[k], b[r] = b[r], b[k]
    for i in range(1, n):
        b[i] -= dot(A[i], b, i)
    for i in range(n - 1, -1, -1):
        b[i] = (b[i] - dot(A[i, i + 1 :], b[i + 1 :], n - i - 1)) / A[i, i]


@inner
def finite(a: F1, n: int) -> bool:
    """Tell whether n numbers are."""
    for i in range(n):
        if not abs(a[i]) < 1e308:
            return False
    return True


@unit
def solve_symmetric(H: F2, g: F1, n: int, A: F2, order: F1, out: F1) -> int:
    """Put the solution of H x = g into ``out``, zeros where there is none; A and ``order`` are for work."""
    for i in range(n):
        out[i] = g[i]
        for j in range(n):
            A[i, j] = H[i, j]
    if cholesky(A, n):
        solve_cholesky(A, out, n)
    else:
        for i in range(n):
            for j in range(n):
                A[i, j] = H[i, j]
        if factor(A, order, n):
            solve_factored(A, order, out, n)
        else:
            out[:n] = 0.0
    if not finite(out, n):
        out[:n] = 0.0
    return 0


@unit
def eigen(A: F2, n: int, values: F1, off: F1) -> int:
    """Put the eigenvalues of a symmetric matrix in ``values`` and its vectors into the columns of A; 1 where that did
    not end.

    Householder's reduction to three diagonals and the QL method with implicit shifts: Wilkinson and Reinsch,
    *Handbook for Automatic Computation*, vol. II, *Linear Algebra* (1971), contributions II/2 and II/4. ``off`` is
    for work."""
    for i in range(n - 1, 0, -1):
        h = scale = 0.0
        if i > 1:
            for k in range(i):
                scale += abs(A[i, k])
        if scale == 0.0:
            off[i] = A[i, i - 1]
        else:
            for k in range(i):
                A[i, k] /= scale
                h += A[i, k] * A[i, k]
            f = A[i, i - 1]
            g = -sqrt(h) if f >= 0.0 else sqrt(h)
            off[i] = scale * g
            h -= f * g
            A[i, i - 1] = f - g
            f = 0.0
            for j in range(i):
                A[j, i] = A[i, j] / h
                g = 0.0
                for k in range(j + 1):
                    g += A[j, k] * A[i, k]
                for k in range(j + 1, i):
                    g += A[k, j] * A[i, k]
                off[j] = g / h
                f += off[j] * A[i, j]
            half = f / (h + h)
            for j in range(i):
                f = A[i, j]
                g = off[j] - half * f
                off[j] = g
                for k in range(j + 1):
                    A[j, k] -= f * off[k] + g * A[i, k]
        values[i] = h
    values[0] = off[0] = 0.0
    for i in range(n):
        if values[i] != 0.0:
            for j in range(i):
                g = 0.0
                for k in range(i):
                    g += A[i, k] * A[k, j]
                for k in range(i):
                    A[k, j] -= g * A[k, i]
        values[i] = A[i, i]
        A[i, i] = 1.0
        for j in range(i):
            A[j, i] = A[i, j] = 0.0
    for i in range(1, n):
        off[i - 1] = off[i]
    off[n - 1] = 0.0
    for low in range(n):
        for number in range(60):
            m = low
            while m < n - 1:
                size = abs(values[m]) + abs(values[m + 1])
                if abs(off[m]) <= 2.3e-16 * size:
                    break
                m += 1
            if m == low:
                break
            if number == 59:
                return 1
            g = (values[low + 1] - values[low]) / (2.0 * off[low])
            r = hypot(g, 1.0)
            g = values[m] - values[low] + off[low] / (g + (r if g >= 0.0 else -r))
            s = c = 1.0
            p = 0.0
            early = False
            for i in range(m - 1, low - 1, -1):
                f, b = s * off[i], c * off[i]
                r = hypot(f, g)
                off[i + 1] = r
                if r == 0.0:
                    values[i + 1] -= p
                    off[m] = 0.0
                    early = True
                    break
                s, c = f / r, g / r
                g = values[i + 1] - p
                r = (values[i] - g) * s + 2.0 * c * b
                p = s * r
                values[i + 1] = g + p
                g = c * r - b
                for k in range(n):
                    f = A[k, i + 1]
                    A[k, i + 1] = s * A[k, i] + c * f
                    A[k, i] = c * A[k, i] - s * f
            if not early:
                values[low] -= p
                off[low] = g
                off[m] = 0.0
    return 0


@unit
def descent(H: F2, g: F1, n: int, A: F2, order: F1, values: F1, off: F1, out: F1) -> int:
    """Put a Newton step that goes downhill into ``out``.

    Where the plain step does not, eigenvalues are replaced by their magnitudes (floored), which also leaves saddle
    points along their negative direction. A, ``order``, ``values`` and ``off`` are for work."""
    solve_symmetric(H, g, n, A, order, out)
    for i in range(n):
        out[i] = -out[i]
    if not (dot(out, g, n) >= 0.0 and dot(g, g, n) > 0.0):
        return 0
    for i in range(n):
        for j in range(n):
            A[i, j] = H[i, j]
    if eigen(A, n, values, off) != 0:
        return 1
    for i in range(n):
        out[i] = 0.0
    for k in range(n):
        along = 0.0
        for i in range(n):
            along += A[i, k] * g[i]
        along /= max(abs(values[k]), 1e-9)
        for i in range(n):
            out[i] -= A[i, k] * along
    return 0


@unit
def damped(H: F2, g: F1, n: int, A: F2, order: F1, out: F1) -> int:
    """Put a Newton step that goes downhill into ``out``: where the plain step does not, the diagonal of H is raised
    until it does (Levenberg, Quart. Appl. Math. 2, 164, 1944), much cheaper than eigenvalues, but blind to a saddle
    point."""
    solve_symmetric(H, g, n, A, order, out)
    for i in range(n):
        out[i] = -out[i]
    raised = 0.5
    while dot(out, g, n) >= 0.0 and dot(g, g, n) > 0.0 and raised < 1e6:
        for i in range(n):
            H[i, i] += raised
        solve_symmetric(H, g, n, A, order, out)
        for i in range(n):
            out[i] = -out[i]
        raised *= 2.0
    return 0
