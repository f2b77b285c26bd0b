namespace Bostel.Core;

/// <summary>
/// The input is well formed, but does not determine what is asked of it, or a solver finds no answer. The message is one sentence.
/// </summary>
public sealed class UndeterminedException(string message) : BadInputException(message);
