using System.CommandLine;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva schema</c>: the JSON Schema of job files, for editors.</summary>
internal static class SchemaCommand
{
    public static Command Build()
    {
        var command = new Command("schema", "Print the JSON Schema (2020-12) for job files and the files that they include.");
        command.SetAction(_ => Console.Out.Write(JobSchema.Write()));
        return command;
    }
}
