namespace Bostel.Core;

/// <summary>Input that cannot be used. The message names the file or field and says what is wrong, in one sentence.</summary>
public class BadInputException : Exception
{
    public BadInputException(string message) : base(message)
    {
    }

    public BadInputException(string message, Exception inner) : base(message, inner)
    {
    }
}
