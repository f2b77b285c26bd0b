using Bostel.Core.Meshes;

namespace Bostel.Core.Tests.Formats;

/// <summary>Welding against a dictionary that numbers points by first appearance.</summary>
public class VertexWelderTests
{
    /// <summary>Points in any order, many more than the memory of recent ones holds, settled now and then.</summary>
    [Theory]
    [InlineData(10, 0)]
    [InlineData(200_000, 0)]
    [InlineData(200_000, 50_000)]
    [InlineData(60_000, 7_777)]
    public void PointsAreNumberedByFirstAppearance(int different, int settleEvery)
    {
        var random = new Random(different);
        var pool = Enumerable.Range(0, different).Select(_ => (X: random.NextDouble(), Y: Math.Round(random.NextDouble(), 2), Z: -0.0))
            .ToArray();
        var welder = new VertexWelder<DoubleKey>(100);
        var numbers = new int[3 * different];
        var expected = new Dictionary<(double, double, double), int>();
        var truth = new int[numbers.Length];
        for (var i = 0; i < numbers.Length; i++)
        {
            var p = pool[random.Next(different)];
            numbers[i] = welder.Add(new(p.X, p.Y, i % 2 == 0 ? p.Z : 0.0));
            expected.TryAdd(p, expected.Count);
            truth[i] = expected[p];
            if (settleEvery > 0 && i % settleEvery == settleEvery - 1)
            {
                welder.Settle(numbers.AsSpan(0, i + 1));
                Assert.Equal(truth[..(i + 1)], numbers[..(i + 1)]);
            }
        }

        welder.Settle(numbers);
        Assert.Equal(truth, numbers);
        Assert.Equal(expected.OrderBy(e => e.Value).SelectMany(e => new[] { e.Key.Item1, e.Key.Item2, 0 }), welder.Coordinates());
    }

    /// <summary>Many at once are numbered as one by one.</summary>
    [Fact]
    public void ManyPointsAtOnceAreNumberedAsOneByOne()
    {
        var random = new Random(3);
        var keys = Enumerable.Range(0, 50_000).Select(_ => new DoubleKey(random.Next(30), random.Next(30), random.Next(30))).ToArray();
        var (one, many) = (new VertexWelder<DoubleKey>(10), new VertexWelder<DoubleKey>(30_000));
        var numbers = new int[keys.Length];
        many.Add(keys.AsSpan(0, 20_000), numbers);
        many.Add(keys.AsSpan(20_000), numbers.AsSpan(20_000));
        many.Settle(numbers);
        int[] singly = [.. keys.Select(one.Add)];
        one.Settle(singly);
        Assert.Equal(singly, numbers);
        Assert.Equal(one.Coordinates(), many.Coordinates());
    }
}
