using System.Globalization;
using System.Text;
using Cursiva.Core.Refusals;
using Npgsql;

namespace Cursiva.Core.State;

/// <summary>The schema <c>cursiva</c> of a shared database: made, brought up to date, and checked.</summary>
public static class PostgresSchema
{
    /// <summary>
    /// The role that jobs act in where no other one is named: it may use what is in the schema, and change nothing of it.
    /// </summary>
    public const string UsualRole = "cursiva_jobs";

    private static readonly string[] s_versions = ["state-1.sql"];

    /// <summary>The version that this Cursiva works with.</summary>
    public static int Version => s_versions.Length;

    /// <summary>The SQL that takes a database from a version to this one, for an administrator to read and run.</summary>
    /// <param name="from">0 for a database that has no such schema.</param>
    /// <param name="role">The role that jobs act in.</param>
    public static string Sql(int from, string role)
    {
        var name = Quoted(role);
        var sql = new StringBuilder("begin;\n");
        foreach (var file in s_versions.Skip(from))
            sql.Append(Read(file)).Append('\n');
        sql.Append(CultureInfo.InvariantCulture, $"""
            delete from cursiva.version;
            insert into cursiva.version values ({Version});

            do $$
            begin
                if not exists (select from pg_roles where rolname = '{role.Replace("'", "''", StringComparison.Ordinal)}') then
                    create role {name} nologin;
                end if;
            exception
                -- Roles are of the whole server: somebody has just made it for another database.
                when duplicate_object or unique_violation then null;
            end
            $$;

            revoke all on schema cursiva from public;
            revoke all on all functions in schema cursiva from public;
            grant usage on schema cursiva to {name};
            grant select, insert, update, delete on all tables in schema cursiva to {name};
            revoke insert, update, delete on cursiva.version from {name};
            grant usage on all sequences in schema cursiva to {name};
            grant execute on all functions in schema cursiva to {name};
            commit;

            """);
        return sql.ToString();
    }

    /// <summary>Makes the schema, or brings it up to date, in one transaction.</summary>
    /// <returns>The version that was there before; 0 for none.</returns>
    /// <exception cref="RefusedException">A newer version of Cursiva has made it, or the role may not do that.</exception>
    public static async Task<int> InitAsync(NpgsqlConnection connection, string role, CancellationToken cancel)
    {
        var found = await FindAsync(connection, cancel);
        RequireNotNewer(found);
        await using var command = new NpgsqlCommand(
            "select pg_advisory_lock(7301);\n" + Sql(found, role) + "select pg_advisory_unlock(7301);", connection);
        try
        {
            await command.ExecuteNonQueryAsync(cancel);
            return found;
        }
        catch (PostgresException error) when (error.SqlState is "42501" or "42P06" or "42P07" or "42723")
        {
            throw error.SqlState == "42501"
                ? new RefusedException(new Refusal(Outcome.InternalError, $"the schema cannot be created: {error.MessageText}")
                {
                    Cause = "this user may not create a schema or a role in the database",
                    NextStep = "ask an administrator to run the output of cursiva state init --print, or name a user who may",
                })
                : new RefusedException(new Refusal(Outcome.InternalError, $"the schema cannot be created: {error.MessageText}")
                {
                    Cause = "somebody else is creating it, or a schema of that name exists and is not Cursiva's",
                    NextStep = "run it again; if the error stays, use a separate database",
                });
        }
    }

    /// <summary>Makes sure that the schema is of this version.</summary>
    /// <exception cref="RefusedException">It is not.</exception>
    public static async Task CheckAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        var found = await FindAsync(connection, cancel);
        RequireNotNewer(found);
        if (found < Version)
        {
            throw new RefusedException(new Refusal(Outcome.InternalError, found == 0
                ? "the database has no schema for the shared state"
                : $"the schema of the shared state has version {found}, but this Cursiva needs {Version}")
            {
                NextStep = "create it once, as a user who may create schemas: cursiva state init --state postgresql://ADMIN@HOST/DATABASE",
            });
        }
    }

    private static void RequireNotNewer(int found)
    {
        if (found <= Version)
            return;
        throw new RefusedException(new Refusal(
            Outcome.InternalError, $"the schema of the shared state has version {found}, but this Cursiva needs {Version}")
        {
            Cause = "a newer version of Cursiva created it",
            NextStep = "install that version on this machine",
        });
    }

    private static async Task<int> FindAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await using var ask = new NpgsqlCommand("select to_regclass('cursiva.version') is not null", connection);
        try
        {
            if (!(bool)(await ask.ExecuteScalarAsync(cancel))!)
                return 0;
            await using var version = new NpgsqlCommand("select max(version) from cursiva.version", connection);
            return (int)(await version.ExecuteScalarAsync(cancel))!;
        }
        catch (PostgresException error) when (error.SqlState == "42501")
        {
            throw new RefusedException(new Refusal(Outcome.InternalError, $"the shared state may not be used: {error.MessageText}")
            {
                Cause = "the user is not a member of the role that jobs use",
                NextStep = $"ask an administrator to run: grant {UsualRole} to {connection.UserName}",
            });
        }
    }

    private static string Quoted(string name) => '"' + name.Replace("\"", "\"\"", StringComparison.Ordinal) + '"';

    private static string Read(string file)
    {
        using var stream = typeof(PostgresSchema).Assembly.GetManifestResourceStream(file)!;
        using var reader = new StreamReader(stream, Encoding.UTF8);
        return reader.ReadToEnd();
    }
}
