using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Jobs;

/// <summary>Write-backs of the job file, and every mistake that can be made with them.</summary>
public sealed class WriteReaderTests : IDisposable
{
    private const string Keys = "sql: select 1, key: [id]";
    private const string Step = "steps: { a: { post: /x, body: { b: 1 } } }";

    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public void Write_backs_are_read_with_everything_they_say()
    {
        var write = Read("""
              documents:
                sql: select id, name from customers
                key: [id]
                steps:
                  find: { get: "/documents{?title}", query: { title: "{row.name}" }, rows: /items, where: { /title: "{row.name}" } }
                  look: { get: "/documents/{row.id}", expect: at-most-one }
                  update: { when: find found, patch: "/documents/{find.id}", body: { body: "{html:row.name}" }, if-match: "{find.etag}", validate: a.schema.json }
                  create: { when: find not-found, post: /documents, body: { title: "{row.name}" }, idempotency-key: true }
                  mark: { put: "/documents/{create.id}", text: "{json:row.name}", type: text/plain }
                only-if-changed: true
                most-changes: 5%
                remove: { gone: { delete: "/documents/{create.id}" } }
                parallel: 9
                when-in-doubt: repeat
                deliver-within: 2h
            """).Writes.ShouldHaveSingleItem();
        (write.OnlyIfChanged, write.MostChanges!.ToString(), write.Parallel, write.RepeatsInDoubt, write.Within, write.Api).ShouldBe((true, "5%", 9, true, TimeSpan.FromHours(2), "x"));
        write.Steps.Select(step => (step.Name, step.Method, step.MayFindNothing, step.MayRepeat)).ShouldBe(
        [
            ("find", StepMethod.Get, true, true),
            ("look", StepMethod.Get, true, true),
            ("update", StepMethod.Patch, false, false),
            ("create", StepMethod.Post, false, true),
            ("mark", StepMethod.Put, false, true),
        ]);
        write.Steps[2].When.ShouldBe(new StepCondition("find", true));
        write.Remove.ShouldHaveSingleItem().Method.ShouldBe(StepMethod.Delete);
    }

    [Theory]
    [InlineData("w: { key: [id], STEP }", "has no 'sql'")]
    [InlineData("w: { sql: select 1, STEP }", "has no 'key'")]
    [InlineData("w: { KEYS }", "has no 'steps'")]
    [InlineData("'a b': { KEYS, STEP }", "'a b' cannot name a write")]
    [InlineData("w: { KEYS, steps: { a: { get: /x } } }", "changes nothing")]
    [InlineData("w: { KEYS, steps: { a: { body: { b: 1 } } } }", "sends nothing")]
    [InlineData("w: { KEYS, steps: { a: { post: /x, put: /x } } }", "has both post: and put:")]
    [InlineData("w: { KEYS, steps: { row: { post: /x } } }", "'row' cannot name a step")]
    [InlineData("w: { KEYS, steps: { a: { post: https://evil.example/x } } }", "is a whole address")]
    [InlineData("w: { KEYS, steps: { a: { post: '/x/{later.id}' }, later: { get: /y } } }", "'later.id'")]
    [InlineData("w: { KEYS, steps: { a: { post: /x, body: { b: '{find.id}' } } } }", "'find.id'")]
    [InlineData("w: { KEYS, steps: { a: { when: found, post: /x } } }", "no step before it is one")]
    [InlineData("w: { KEYS, steps: { find: { get: /y }, a: { when: finds found, post: /x } } }", "no lookup before it is named 'finds'; did you mean 'find'?")]
    [InlineData("w: { KEYS, steps: { find: { get: /y }, a: { when: maybe, post: /x } } }", "'maybe' is not the result of a lookup")]
    [InlineData("w: { KEYS, steps: { a: { post: /x, rows: /items } } }", "rows: is only for steps with get:")]
    [InlineData("w: { KEYS, steps: { find: { get: /y, body: { a: 1 } }, a: { post: /x } } }", "body: is only for steps with post:")]
    [InlineData("w: { KEYS, steps: { find: { get: /y, where: { /a: b } }, a: { post: /x } } }", "add rows:")]
    [InlineData("w: { KEYS, steps: { a: { post: /x, body: { a: 1 }, text: b } } }", "has two bodies")]
    [InlineData("w: { KEYS, steps: { a: { post: /x, validate: a.json } } }", "has no JSON to validate")]
    [InlineData("w: { KEYS, STEP, remove: { g: { delete: '/x/{a.id}' } } }", "add most-changes:")]
    [InlineData("w: { KEYS, STEP, api: other }", "no api is named 'other'")]
    [InlineData("w: { KEYS, STEP, identity: nobody }", "no identity is named 'nobody'")]
    [InlineData("w: { KEYS, STEP, most-changes: many }", "most-changes")]
    [InlineData("w: { KEYS, STEP, colour: red }", "'colour'")]
    public void Mistakes_are_told(string write, string said)
    {
        var mistakes = Should.Throw<JobMistakesException>(() => Read("  " + write.Replace("KEYS", Keys).Replace("STEP", Step))).Mistakes;
        mistakes.Select(mistake => $"{mistake.Found}; {mistake.Right}").ShouldContain(mistake => mistake.Contains(said));
    }

    private Job Read(string writes) => JobReader.Read(_folder.Write("job.cursiva.yaml", "cursiva: 1\napis: { x: { base: https://x.example } }\npulls: { p: { get: /, rows: \"\" } }\nwrites:\n" + writes), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
}
