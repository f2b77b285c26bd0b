using System.Runtime.CompilerServices;
using Bostel.Core.Geometry;

namespace Bostel.Core.Spatial;

/// <summary>
/// Closest points for queries that follow each other through space, as the vertices of a scan do. Instead of descending the whole index for
/// each, it keeps the leaves around the last few queries; a query whose ball lies in the ball they were collected for needs no others. The
/// answers are those of <see cref="TriangleTree.Closest"/>, whatever was asked before. For one thread.
/// </summary>
public sealed class ClosestSearch(TriangleTree tree)
{
    /// <summary>More leaves than this would cost more to look through than a descent.</summary>
    private const int Most = 48;

    /// <summary>Collecting costs about as much as this many descents saved.</summary>
    private const int Worthwhile = 3;

    /// <summary>After leaves that did not pay, so many queries go straight down the index.</summary>
    private const int Pause = 16;

    private readonly float[] _boxes = new float[6 * Most];
    private readonly int[] _blocks = new int[Most];
    private Vector3D _center;
    private double _radius = -1;
    private double _margin = 2 * tree.MeanEdge;
    private int _count;
    private int _uses;
    private int _pause;
    private int _last = -1;

    /// <summary>As <see cref="TriangleTree.Closest"/>, started from the block of the triangle found before.</summary>
    public ClosestHit Closest(
        Vector3D point, double maxDistance = double.PositiveInfinity, Vector3D direction = default, double minimumCosine = -2)
    {
        var p = tree.Local(point);
        var condition = new NormalCondition(direction, minimumCosine);
        var best = tree.Start(p, maxDistance, _last, condition);
        if (Holds(p, best))
        {
            Look(p, _last, condition, ref best);
        }
        else
        {
            tree.Descend(p, condition, ref best);
        }

        _last = best.Found ? tree.BlockHolding(best.Triangle) : _last;
        return tree.Global(best);
    }

    /// <summary>Whether the kept leaves answer the query; collects others where that promises to pay.</summary>
    private bool Holds(Vector3D p, in ClosestHit best)
    {
        if (!best.Found)
        {
            return false;
        }

        var reach = Math.Sqrt(best.DistanceSquared);
        if ((p - _center).Length + reach <= _radius)
        {
            _uses++;
            return true;
        }

        if (_pause > 0)
        {
            _pause--;
            return false;
        }

        if (_radius >= 0 && _uses < Worthwhile)
        {
            (_pause, _radius) = (Pause, -1);
            return false;
        }

        // A reach of the ball's own size would collect far more than the queries to come need.
        _uses = 0;
        if (reach > 2 * _margin)
        {
            _radius = -1;
            return false;
        }

        (_center, _radius) = (p, reach + _margin);
        _count = tree.Collect(p, _radius, _boxes, _blocks);
        if (_count < 0)
        {
            (_margin, _radius) = (0.7 * _margin, -1);
            return false;
        }

        _margin *= _count < Most / 3 ? 1.1 : 1;
        return true;
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Look(Vector3D p, int started, in NormalCondition condition, ref ClosestHit best)
    {
        var boxes = new BoxQuery(p);
        for (var group = 0; group < _count; group += 8)
        {
            var mask = boxes.Within(ref _boxes[6 * group], BoxQuery.Limit(best.DistanceSquared), out _);
            while (mask != 0)
            {
                var block = _blocks[group + System.Numerics.BitOperations.TrailingZeroCount(mask)];
                if (block != started)
                {
                    tree.TestBlock(block, p, condition, ref best);
                }

                mask &= mask - 1;
            }
        }
    }
}
