package dastur.core.notation;

import dastur.core.json.Texts;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Check;
import dastur.core.workflow.DecisionTable;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Reads a whole workflow. Goes on after a fault, so that all of them are told at once. */
final class NotationReader {
    private static final Pattern STEP = Pattern.compile("([A-Za-z][A-Za-z0-9_-]*)\\s*:\\s*(.*)");
    private static final Pattern WAY = Pattern.compile("(\"(?:[^\"\\\\]|\\\\.)*\"|[a-z]+(?: [a-z]+)*)\\s*->\\s*(\\S+)");
    private static final Pattern MEASURED = Pattern.compile(
            "(.*), measured by ([A-Za-z][A-Za-z0-9_]*)(?:, at most (.+?) old)?(?:, after ([A-Za-z][A-Za-z0-9_]*))?");

    private final Names names;
    private final List<NotationProblem> problems = new ArrayList<>();
    private final Map<String, WorkflowVersion.Note> notes = new LinkedHashMap<>();
    private final Set<String> ids = new TreeSet<>();
    private final List<Runnable> wayChecks = new ArrayList<>();

    NotationReader(Names names) {
        this.names = names;
    }

    Notation.Read read(String text, int number) {
        try {
            Lines.Tree tree = Lines.of(text);
            WorkflowVersion version = version(tree, number);
            return new Notation.Read(problems.isEmpty() ? version : null, List.copyOf(problems));
        } catch (Wrong w) {
            problems.add(w.problem);
            return new Notation.Read(null, List.copyOf(problems));
        }
    }

    /** The workflow; null when there are problems. */
    private @Nullable WorkflowVersion version(Lines.Tree tree, int number) {
        if (tree.nodes().isEmpty() || !tree.nodes().getFirst().text().startsWith("workflow ")) {
            int line = tree.nodes().isEmpty() ? 1 : tree.nodes().getFirst().number();
            throw new Wrong(
                    line,
                    1,
                    "A workflow begins with a line such as: workflow gate-lane \"Gate lane\" for incident",
                    "workflow ");
        }
        Lines.Node head = tree.nodes().getFirst();
        note("", head.comments(), null);
        Header h = new Header();
        Scanner in = scanner(head);
        in.expect("workflow");
        String key = in.key("The workflow's key");
        String name = in.quoted("The workflow's name");
        TicketKind kind = in.take("for") ? kind(in) : null;
        in.end();
        head.under().forEach(n -> attempt(() -> header(n, h)));
        List<Step> steps = steps(tree.nodes().subList(1, tree.nodes().size()));
        if (!tree.tail().isEmpty()) {
            notes.put(Notation.TAIL, new WorkflowVersion.Note(String.join("\n", tree.tail()), null));
        }
        wayChecks.forEach(Runnable::run);
        if (!problems.isEmpty()) {
            return null;
        }
        return build(
                head,
                () -> new WorkflowVersion(
                        new WorkflowKey(key),
                        number,
                        name,
                        h.purpose,
                        h.owner,
                        kind,
                        h.asks,
                        h.keeps,
                        h.gives,
                        h.conditions,
                        notes,
                        h.mostVisits,
                        new Level(steps)));
    }

    private static TicketKind kind(Scanner in) {
        String word = in.rest("A kind of ticket");
        return TicketKind.of(word)
                .orElseThrow(() -> in.wrong(
                        "A workflow is for incident, change or request tickets.",
                        Near.to(word, List.of("incident", "change", "request"))));
    }

    private <T> T build(Lines.Node node, java.util.function.Supplier<T> make) {
        try {
            return make.get();
        } catch (IllegalArgumentException e) {
            throw new Wrong(node.number(), node.indent() + 1, e.getMessage(), null);
        }
    }

    /** Goes on with the next line when this one is at fault. */
    private void attempt(Runnable one) {
        try {
            one.run();
        } catch (Wrong w) {
            problems.add(w.problem);
        }
    }

    private static Scanner scanner(Lines.Node node) {
        return new Scanner(node.text(), node.number(), node.indent());
    }

    // --- header

    private static final class Header {
        @Nullable String purpose;

        @Nullable Integer mostVisits;

        PersonId owner = new PersonId("nobody");
        final List<Field> asks = new ArrayList<>();
        final List<Field> keeps = new ArrayList<>();
        final List<WorkflowVersion.Result> gives = new ArrayList<>();
        final Map<String, String> conditions = new LinkedHashMap<>();
    }

    private void header(Lines.Node node, Header h) {
        Scanner in = scanner(node);
        build(node, () -> {
            if (in.take("purpose")) {
                h.purpose = text(node, in);
            } else if (in.take("owner")) {
                h.owner = new PersonId(in.key("The owner"));
            } else if (in.take("asks")) {
                h.asks.add(field(in));
            } else if (in.take("keeps")) {
                h.keeps.add(field(in));
            } else if (in.take("gives")) {
                Field field = field(in);
                in.expect("=");
                h.gives.add(new WorkflowVersion.Result(field, in.rest("An expression")));
            } else if (in.take("at most")) {
                h.mostVisits = in.number("How many steps");
                in.expect("steps in a run");
            } else if (in.take("condition")) {
                String name = in.id("The condition's name");
                in.expect("=");
                h.conditions.put(name, SentenceReader.condition(in.rest("A condition")));
            } else {
                String word = node.text().split(" ", 2)[0];
                throw in.wrong(
                        "The head of a workflow has no '" + Texts.clip(word, 30) + "'.",
                        Near.to(word, List.of("purpose", "owner", "asks", "keeps", "gives", "condition", "at most")));
            }
            in.end();
            return true;
        });
    }

    private static Field field(Scanner in) {
        String name = in.id("The field's name");
        in.expect(":");
        FieldType type = Arrays.stream(FieldType.values())
                .filter(t -> in.take(t.word()))
                .findFirst()
                .orElseThrow(() -> in.wrong("A type is expected here: text, whole number, yes or no, choice, time …"));
        String label = in.quotedIfThere().orElse(name);
        List<String> choices = new ArrayList<>();
        if (in.take("one of")) {
            do {
                choices.add(in.quoted("A choice"));
            } while (in.take(","));
        }
        boolean required = in.take("required");
        String help = in.take("help") ? in.quoted("The help text") : null;
        return new Field(name, label, type, required, choices, help);
    }

    private static String text(Lines.Node node, Scanner in) {
        return node.block().isEmpty() ? in.quoted("A text") : String.join("\n", node.block());
    }

    // --- steps

    private List<Step> steps(List<Lines.Node> nodes) {
        List<Lines.Node> stepNodes =
                nodes.stream().filter(n -> STEP.matcher(n.text()).matches()).toList();
        nodes.stream()
                .filter(n -> !STEP.matcher(n.text()).matches())
                .forEach(n -> attempt(() -> {
                    throw new Wrong(
                            n.number(),
                            n.indent() + 1,
                            "A step is expected here: its id, a colon, and what happens, such as look: ask …",
                            null);
                }));
        List<String> own = stepNodes.stream().map(NotationReader::idOf).toList();
        List<Step> steps = new ArrayList<>();
        for (int i = 0; i < stepNodes.size(); i++) {
            Lines.Node node = stepNodes.get(i);
            String next = i + 1 < stepNodes.size() ? own.get(i + 1) : null;
            attempt(() -> steps.add(step(node, next, own)));
        }
        return steps;
    }

    private static String idOf(Lines.Node node) {
        Matcher m = STEP.matcher(node.text());
        return m.matches() ? m.group(1) : "";
    }

    private StepId id(Lines.Node node, int column, String text) {
        try {
            return new StepId(text);
        } catch (IllegalArgumentException e) {
            throw new Wrong(node.number(), column, e.getMessage(), text.replace('-', '_'));
        }
    }

    private Step step(Lines.Node node, @Nullable String next, List<String> level) {
        Matcher m = STEP.matcher(node.text());
        if (!m.matches()) {
            throw new IllegalStateException("looked at before");
        }
        StepId id = id(node, node.indent() + 1, m.group(1));
        if (!ids.add(id.value())) {
            problems.add(new NotationProblem(
                    node.number(),
                    node.indent() + 1,
                    "There is already a step '" + id + "'. Give each its own id.",
                    null));
        }
        Draft d = new Draft();
        Scanner in = new Scanner(m.group(2), node.number(), node.indent() + m.start(2));
        try {
            d = new SentenceReader(in, names).read();
            in.end();
        } catch (Wrong w) {
            problems.add(w.problem);
            d.result = "";
        }
        Draft draft = d;
        String[] wording = new String[1];
        List<Lines.Node> inner = new ArrayList<>();
        for (Lines.Node under : node.under()) {
            if (STEP.matcher(under.text()).matches() && !isWay(under)) {
                inner.add(under);
            } else {
                attempt(() -> build(under, () -> {
                    setting(under, draft, level, wording);
                    return true;
                }));
            }
        }
        if (!inner.isEmpty()) {
            if (!Set.of(Draft.Kind.FOR_EACH, Draft.Kind.REPEAT, Draft.Kind.STAGE)
                    .contains(draft.kind)) {
                problems.add(new NotationProblem(
                        inner.getFirst().number(),
                        inner.getFirst().indent() + 1,
                        "Only a stage, for each, repeat or a lane holds steps.",
                        null));
            }
            draft.body.addAll(steps(inner));
        }
        note(id.value(), node.comments(), wording[0]);
        return build(node, () -> draft.build(id, next == null || !isWord(next) ? null : new StepId(next)));
    }

    private static boolean isWord(String text) {
        return text.matches("[a-zA-Z][A-Za-z0-9_]{0,39}");
    }

    private static boolean isWay(Lines.Node node) {
        return WAY.matcher(node.text()).matches();
    }

    private void note(String id, List<String> comments, @Nullable String wording) {
        if (!comments.isEmpty() || wording != null) {
            notes.put(id, new WorkflowVersion.Note(comments.isEmpty() ? null : String.join("\n", comments), wording));
        }
    }

    // --- the lines under a sentence

    private static final List<String> SETTINGS = List.of(
            "say",
            "in the room",
            "overseen by",
            "form",
            "ladder",
            "left out if",
            "may be left out",
            "shows",
            "not the requester",
            "not who did",
            "without",
            "veto of",
            "asks why always",
            "a yes may name conditions",
            "asks why not",
            "sets off",
            "with",
            "measure",
            "put back with",
            "when",
            "set",
            "rule",
            "by table",
            "column",
            "row",
            "lane",
            "expects",
            "from the document");

    private List<Party> parties(Scanner in) {
        List<Party> parties = new ArrayList<>();
        do {
            parties.add(new SentenceReader(in, names).party());
        } while (in.take(","));
        return parties;
    }

    private void setting(Lines.Node node, Draft d, List<String> level, String[] wording) {
        Matcher way = WAY.matcher(node.text());
        if (way.matches()) {
            way(node, way, d, level);
            return;
        }
        Scanner in = scanner(node);
        if (in.take("say")) {
            d.text = text(node, in);
        } else if (in.take("in the room")) {
            String name = in.quoted("The room's name");
            d.room = new Step.Room(name, in.take("keeping all that is said"));
        } else if (in.take("overseen by")) {
            d.overseer = new SentenceReader(in, names).party();
        } else if (in.take("form")) {
            d.form.add(field(in));
        } else if (in.take("ladder")) {
            d.ladder = new LadderKey(in.named("ladder", names.ladders()));
        } else if (in.take("left out if")) {
            d.leftOutIf = SentenceReader.condition(in.rest("A condition"));
        } else if (in.take("may be left out")) {
            d.mayLeaveOut = true;
        } else if (in.take("shows")) {
            do {
                d.shown.add(in.key("A field"));
            } while (in.take(","));
        } else if (in.take("not the requester")) {
            d.notRequester = true;
        } else if (in.take("not who did")) {
            do {
                d.notDoersOf.add(new StepId(in.id("A step")));
            } while (in.take(","));
        } else if (in.take("without")) {
            d.without.addAll(parties(in));
        } else if (in.take("veto of")) {
            d.veto.addAll(parties(in));
        } else if (in.take("asks why always")) {
            d.commentAlways = true;
        } else if (in.take("a yes may name conditions")) {
            d.mayAddConditions = true;
        } else if (in.take("asks why not")) {
            d.commentOnDecline = true;
        } else if (in.take("sets off")) {
            d.setsOff = in.quoted("What a yes sets off");
        } else if (in.take("with")) {
            String name = in.id("An input");
            in.expect("=");
            d.inputs.put(name, in.rest("An expression"));
        } else if (in.take("measure")) {
            d.action = new ActionKey(in.named("action", names.actions()));
        } else if (in.take("put back with")) {
            putBack(node, in, d);
        } else if (in.take("when")) {
            String name = in.quoted("The case's name");
            in.expect("if");
            d.cases.add(new Step.BranchCase(name, SentenceReader.condition(in.rest("A condition"))));
        } else if (in.take("set")) {
            new SentenceReader(in, names).assignment(d);
        } else if (in.take("rule")) {
            d.rules.add(rule(in));
        } else if (in.take("by table")) {
            d.hit = in.take("unique") ? DecisionTable.Hit.UNIQUE : DecisionTable.Hit.FIRST;
            boolean ignored = in.take("first");
            node.under().forEach(n -> attempt(() -> build(n, () -> table(n, d))));
        } else if (in.take("lane")) {
            String name = in.quoted("The lane's name");
            String when = in.take("if") ? SentenceReader.condition(in.rest("A condition")) : null;
            d.lanes.add(new Bracket.Lane(name, when, new Level(steps(node.under()))));
        } else if (in.take("expects")) {
            d.expected = in.exit();
        } else if (in.take("from the document")) {
            wording[0] = text(node, in);
        } else {
            String word = node.text().split("[ \"]", 2)[0];
            throw in.wrong("A step has no '" + Texts.clip(word, 30) + "' below it.", Near.to(word, SETTINGS));
        }
        in.end();
    }

    private void way(Lines.Node node, Matcher way, Draft d, List<String> level) {
        Scanner in = scanner(node);
        String exit = in.exit();
        String to = way.group(2);
        if (to.equals("?")) {
            d.expectedOpen = true;
            return;
        }
        if (d.ways.put(exit, id(node, node.indent() + way.start(2) + 1, to)) != null) {
            throw in.wrong("'" + exit + "' already leads somewhere else. Exactly one way leads on from an exit.");
        }
        wayChecks.add(() -> {
            if (!level.contains(to)) {
                problems.add(new NotationProblem(
                        node.number(),
                        node.indent() + way.start(2) + 1,
                        ids.contains(to)
                                ? "'" + to + "' stands inside or outside a bracket; ways join steps of the same level."
                                : "There is no step '" + Texts.clip(to, 40) + "' here.",
                        Near.to(to, level)));
            }
        });
    }

    private void putBack(Lines.Node node, Scanner in, Draft d) {
        ActionKey action = new ActionKey(in.named("action", names.actions()));
        boolean always = in.take("always");
        boolean repeatable = in.take("even if unsure");
        Map<String, String> inputs = new LinkedHashMap<>();
        node.under()
                .forEach(n -> attempt(() -> {
                    Scanner line = scanner(n);
                    line.expect("with");
                    String name = line.id("An input");
                    line.expect("=");
                    inputs.put(name, line.rest("An expression"));
                }));
        d.putBack = new Step.PutBack(action, inputs, always, repeatable);
    }

    private boolean table(Lines.Node node, Draft d) {
        Scanner in = scanner(node);
        if (in.take("column")) {
            String label = in.quoted("The column's heading");
            in.expect("=");
            d.columns.add(new DecisionTable.Input(label, in.rest("An expression")));
            return true;
        }
        in.expect("row");
        List<String> cells = new ArrayList<>();
        do {
            cells.add(in.until("A cell", List.of(" | ", " -> ")));
        } while (in.take("|"));
        in.expect("->");
        d.rows.add(new DecisionTable.Row(cells, in.quoted("The case it leads to")));
        return true;
    }

    private static Check.Rule rule(Scanner in) {
        String name = in.quoted("The rule's name");
        Check.Sense sense = in.take("stays") ? Check.Sense.STAY : Check.Sense.TURN_GOOD;
        in.expect(":");
        List<String> comparisons = List.of(
                " is not ",
                " is ",
                " within ",
                " above ",
                " at least ",
                " below ",
                " at most ",
                " contains ",
                " holds");
        String value = in.until("What is judged", comparisons);
        if (in.take("holds")) {
            return measured(in, name, sense, value, Check.Compare.HOLDS, null, null);
        }
        if (in.take("within")) {
            double share = Double.parseDouble(in.until("A share", List.of(" %", "%")));
            in.expect("%");
            in.expect("of");
            return measured(in, name, sense, value, Check.Compare.WITHIN, in.rest("What it is compared with"), share);
        }
        for (Check.Compare compare : List.of(
                Check.Compare.DIFFERENT,
                Check.Compare.EQUAL,
                Check.Compare.ABOVE,
                Check.Compare.AT_LEAST,
                Check.Compare.BELOW,
                Check.Compare.AT_MOST,
                Check.Compare.CONTAINS)) {
            if (in.take(compare.word())) {
                return measured(in, name, sense, value, compare, in.rest("What it is compared with"), null);
            }
        }
        throw in.wrong("A comparison is expected here: is, is not, within, above, at least, below, at most, contains.");
    }

    private static Check.Rule measured(
            Scanner in,
            String name,
            Check.Sense sense,
            String value,
            Check.Compare compare,
            @Nullable String against,
            @Nullable Double share) {
        String tail = against == null ? in.left().strip() : against;
        Matcher m = MEASURED.matcher(tail);
        boolean aged = m.matches();
        if (against == null && !tail.isEmpty()) {
            String ignored = in.rest("More");
        }
        return new Check.Rule(
                name,
                value,
                compare,
                against == null ? null : aged ? m.group(1) : against,
                share,
                sense,
                aged ? new StepId(m.group(2)) : null,
                aged && m.group(3) != null ? dastur.core.time.Span.parse(m.group(3)) : null,
                aged && m.group(4) != null ? new StepId(m.group(4)) : null);
    }
}
