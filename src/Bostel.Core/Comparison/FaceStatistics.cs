using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>Deviations face by face, and of faces taken together as a feature.</summary>
public static class FaceStatistics
{
    /// <summary>
    /// Statistics of every face of the nominal, in the order of their ids. A vertex belongs to the face of its closest triangle.
    /// </summary>
    /// <param name="areas">Weights of the scan's vertices.</param>
    public static IReadOnlyList<DeviationStatistics> OfFaces(
        DeviationMap map, double[] areas, NominalModel nominal, double lower, double upper)
    {
        var members = new List<int>[nominal.Faces.Count];
        for (var f = 0; f < members.Length; f++)
        {
            members[f] = [];
        }

        for (var v = 0; v < map.Values.Length; v++)
        {
            if (map.Triangles[v] >= 0)
            {
                members[nominal.FaceOfTriangle[map.Triangles[v]]].Add(v);
            }
        }

        return [.. members.Select(m => DeviationStatistics.Of(map.Values, areas, lower, upper, m))];
    }

    /// <summary>Statistics of several faces as one.</summary>
    /// <exception cref="BadInputException">A face the nominal does not have.</exception>
    public static DeviationStatistics OfFeature(
        DeviationMap map, double[] areas, NominalModel nominal, IReadOnlyCollection<int> faces, double lower, double upper)
    {
        var wanted = faces.Select(f => nominal.Face(f).Id).ToHashSet();
        var members = Enumerable.Range(0, map.Values.Length)
            .Where(v => map.Triangles[v] >= 0 && wanted.Contains(nominal.FaceOfTriangle[map.Triangles[v]])).ToList();
        return DeviationStatistics.Of(map.Values, areas, lower, upper, members);
    }
}
