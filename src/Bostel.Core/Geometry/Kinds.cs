using System.Collections.Concurrent;
using System.Reflection;
using System.Text.Json.Serialization;

namespace Bostel.Core;

/// <summary>
/// The names of closed sets of types as plans write them: those declared with <see cref="JsonDerivedTypeAttribute"/>. Safe to call from any
/// thread.
/// </summary>
public static class Kinds
{
    private static readonly ConcurrentDictionary<Type, (Type Type, string Name)[]> Known = new();

    /// <summary>The names of a set, in the order of their declaration.</summary>
    public static IReadOnlyList<string> Of<T>() => [.. Names(typeof(T)).Select(k => k.Name)];

    /// <summary>The name of a member's own type.</summary>
    public static string NameOf<T>(T member)
        where T : notnull => Names(typeof(T)).First(k => k.Type == member.GetType()).Name;

    /// <summary>One of each member of a set whose members begin with an id and a name, both empty.</summary>
    public static IReadOnlyList<T> EachOf<T>() => [.. Names(typeof(T)).Select(k => (T)Activator.CreateInstance(k.Type, "", "")!)];

    private static (Type Type, string Name)[] Names(Type set) => Known.GetOrAdd(set, t =>
        [.. t.GetCustomAttributes<JsonDerivedTypeAttribute>(inherit: false).Select(a => (a.DerivedType, (string)a.TypeDiscriminator!))]);
}
