using System.Runtime.InteropServices;
using Bostel.Core.Geometry;

namespace Bostel.Core.Preparation;

/// <summary>
/// A weighted sum of squared distances to planes as a quadratic form xᵀAx + 2bᵀx + c, with the sum of its weights (Garland and Heckbert
/// 1997). Coordinates should be taken about a near origin.
/// </summary>
[StructLayout(LayoutKind.Sequential)]
internal struct Quadric
{
    private double _xx, _xy, _xz, _yy, _yz, _zz, _x, _y, _z, _c;

    public double Weight { get; private set; }

    public static Quadric Plane(Vector3D normal, Vector3D on, double weight)
    {
        var d = -normal.Dot(on);
        return new()
        {
            _xx = weight * normal.X * normal.X,
            _xy = weight * normal.X * normal.Y,
            _xz = weight * normal.X * normal.Z,
            _yy = weight * normal.Y * normal.Y,
            _yz = weight * normal.Y * normal.Z,
            _zz = weight * normal.Z * normal.Z,
            _x = weight * d * normal.X,
            _y = weight * d * normal.Y,
            _z = weight * d * normal.Z,
            _c = weight * d * d,
            Weight = weight,
        };
    }

    public void Add(in Quadric q)
    {
        _xx += q._xx;
        _xy += q._xy;
        _xz += q._xz;
        _yy += q._yy;
        _yz += q._yz;
        _zz += q._zz;
        _x += q._x;
        _y += q._y;
        _z += q._z;
        _c += q._c;
        Weight += q.Weight;
    }

    public readonly double At(Vector3D p) =>
        (p.X * ((_xx * p.X) + (2 * ((_xy * p.Y) + (_xz * p.Z) + _x))))
            + (p.Y * ((_yy * p.Y) + (2 * ((_yz * p.Z) + _y)))) + (p.Z * ((_zz * p.Z) + (2 * _z))) + _c;

    /// <summary>
    /// The point where the form is least, drawn toward <paramref name="toward"/> with a thousandth of the form's own stiffness, so that on
    /// a flat or straight area, where the form does not decide, that point is taken.
    /// </summary>
    public readonly Vector3D Least(Vector3D toward)
    {
        var pull = (1e-3 * (_xx + _yy + _zz)) + 1e-30;
        double xx = _xx + pull, yy = _yy + pull, zz = _zz + pull;
        double rx = (pull * toward.X) - _x, ry = (pull * toward.Y) - _y, rz = (pull * toward.Z) - _z;
        double c00 = (yy * zz) - (_yz * _yz), c01 = (_xz * _yz) - (_xy * zz), c02 = (_xy * _yz) - (_xz * yy);
        var det = (xx * c00) + (_xy * c01) + (_xz * c02);
        double c11 = (xx * zz) - (_xz * _xz), c12 = (_xy * _xz) - (xx * _yz), c22 = (xx * yy) - (_xy * _xy);
        return new(((c00 * rx) + (c01 * ry) + (c02 * rz)) / det, ((c01 * rx) + (c11 * ry) + (c12 * rz)) / det,
            ((c02 * rx) + (c12 * ry) + (c22 * rz)) / det);
    }
}
