package dastur.core.notation;

import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Known;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Consumer;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Reads a whole workflow. Goes on after a fault, so that all of them are told at once. */
final class NotationReader {
    private static final Pattern STEP = Pattern.compile("([A-Za-z][A-Za-z0-9_-]*)\\s*:\\s*(.*)");
    private static final Pattern WAY = Pattern.compile("(\"(?:[^\"\\\\]|\\\\.)*\"|[a-z]+(?: [a-z]+)*)\\s*->\\s*(\\S+)");

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
                        "A workflow is for incident, change, request or routine tickets.",
                        Near.to(word, List.of("incident", "change", "request"))));
    }

    private <T extends @Nullable Object> T build(Lines.Node node, java.util.function.Supplier<T> make) {
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

    private Scanner scanner(Lines.Node node) {
        return new Scanner(node.text(), node.number(), node.indent(), names);
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
                h.asks.add(Phrases.field(in));
            } else if (in.take("keeps")) {
                h.keeps.add(Phrases.field(in));
            } else if (in.take("gives")) {
                Field field = Phrases.field(in);
                in.expect("=");
                h.gives.add(new WorkflowVersion.Result(field, in.rest("An expression")));
            } else if (in.take("at most")) {
                h.mostVisits = in.number("How many steps");
                in.expect("steps in a run");
            } else if (in.take("condition")) {
                String name = in.id("The condition's name");
                in.expect("=");
                h.conditions.put(name, Phrases.condition(in.rest("A condition")));
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
            attempt(() -> {
                Step step = step(node, next, own);
                if (step != null) {
                    steps.add(step);
                }
            });
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

    /** A step while it is read. */
    private static final class Reading {
        private final List<String> level;
        private final Map<String, StepId> ways = new LinkedHashMap<>();

        private @Nullable Begun begun;
        private @Nullable String expected;
        private @Nullable String wording;
        private boolean expectedOpen;

        Reading(List<String> level) {
            this.level = level;
        }

        /** The step; its expected exit leads to {@code next} unless something else was said. Null where its sentence is at fault. */
        @Nullable Step build(StepId id, @Nullable StepId next) {
            if (begun == null) {
                return null;
            }
            Step step = begun.build(id, ways, expected);
            String usual = step.expected() != null
                    ? step.expected()
                    : step.exits(Known.NOTHING).stream().findFirst().orElse(null);
            if (next == null || usual == null || expectedOpen || ways.containsKey(usual)) {
                return step;
            }
            ways.put(usual, next);
            return begun.build(id, ways, expected);
        }
    }

    /** Null where its sentence is at fault. */
    private @Nullable Step step(Lines.Node node, @Nullable String next, List<String> level) {
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
        Reading d = new Reading(level);
        attempt(() -> {
            Scanner in = new Scanner(m.group(2), node.number(), node.indent() + m.start(2), names);
            Begun begun = SentenceReader.read(in);
            in.end();
            d.begun = begun;
        });
        List<Lines.Node> inner = new ArrayList<>();
        for (Lines.Node under : node.under()) {
            if (STEP.matcher(under.text()).matches() && !isWay(under)) {
                inner.add(under);
            } else {
                attempt(() -> build(under, () -> {
                    setting(under, d);
                    return true;
                }));
            }
        }
        if (!inner.isEmpty()) {
            List<Step> steps = steps(inner);
            if (d.begun != null && !d.begun.holds(steps)) {
                problems.add(new NotationProblem(
                        inner.getFirst().number(),
                        inner.getFirst().indent() + 1,
                        "Only a stage, for each, repeat or a lane holds steps.",
                        null));
            }
        }
        note(id.value(), node.comments(), d.wording);
        return build(node, () -> d.build(id, next == null || !isWord(next) ? null : new StepId(next)));
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

    private void setting(Lines.Node node, Reading d) {
        Matcher way = WAY.matcher(node.text());
        if (way.matches()) {
            way(node, way, d);
            return;
        }
        Below line = new Below(node);
        Scanner in = line.in();
        if (in.take("expects")) {
            d.expected = in.exit();
        } else if (in.take("from the document")) {
            d.wording = line.text();
        } else if (d.begun == null) {
            // Its sentence is at fault, so nobody knows which lines it may have.
            return;
        } else if (!d.begun.setting(line)) {
            String word = node.text().split("[ \"]", 2)[0];
            List<String> known = new ArrayList<>(d.begun.settings());
            known.addAll(List.of("expects", "from the document"));
            throw in.wrong("Such a step has no '" + Texts.clip(word, 30) + "' below it.", Near.to(word, known));
        }
        in.end();
    }

    /** A line below a sentence. */
    private final class Below implements Line {
        private final Lines.Node node;
        private final Scanner in;

        Below(Lines.Node node) {
            this.node = node;
            this.in = scanner(node);
        }

        @Override
        public Scanner in() {
            return in;
        }

        @Override
        public String text() {
            return NotationReader.text(node, in);
        }

        @Override
        public void each(Consumer<Scanner> one) {
            node.under()
                    .forEach(n -> attempt(() -> build(n, () -> {
                        Scanner line = scanner(n);
                        one.accept(line);
                        line.end();
                        return true;
                    })));
        }

        @Override
        public Level steps() {
            return new Level(NotationReader.this.steps(node.under()));
        }
    }

    private void way(Lines.Node node, Matcher way, Reading d) {
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
            if (!d.level.contains(to)) {
                problems.add(new NotationProblem(
                        node.number(),
                        node.indent() + way.start(2) + 1,
                        ids.contains(to)
                                ? "'" + to + "' stands inside or outside a bracket; ways join steps of the same level."
                                : "There is no step '" + Texts.clip(to, 40) + "' here.",
                        Near.to(to, d.level)));
            }
        });
    }
}
