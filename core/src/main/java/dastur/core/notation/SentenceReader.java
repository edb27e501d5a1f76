package dastur.core.notation;

import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.people.RotaKey;
import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.WorkflowKey;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads one sentence: what a step does, who does it, by when. */
final class SentenceReader {
    /** The words that begin a sentence, for completion and proposals. */
    static final List<String> HEADS = List.of(
            "ask",
            "approve",
            "run",
            "measure",
            "check",
            "tell",
            "set",
            "update",
            "if",
            "decide",
            "wait",
            "for each",
            "repeat",
            "stage",
            "side by side",
            "call in",
            "call",
            "done",
            "fail",
            "leave",
            "put back",
            "stop");

    private static final Pattern INLINE_INPUT = Pattern.compile("([A-Za-z][A-Za-z0-9_]*)=(\"[^\"]*\"|'[^']*'|\\S+)");

    private final Scanner in;
    private final Names names;

    SentenceReader(Scanner in, Names names) {
        this.in = in;
        this.names = names;
    }

    Draft read() {
        Draft d = new Draft();
        if (in.take("ask")) {
            ask(d);
        } else if (in.take("approve")) {
            approve(d);
        } else if (in.take("run")) {
            acting(d, Draft.Kind.RUN);
        } else if (in.take("measure")) {
            acting(d, Draft.Kind.MEASURE);
        } else if (in.take("check")) {
            check(d);
        } else if (in.take("tell")) {
            tell(d);
        } else if (in.take("set")) {
            d.kind = Draft.Kind.UPDATE;
            assignment(d);
            d.name = "Set " + d.assignments.getFirst().target();
        } else if (in.take("update")) {
            d.kind = Draft.Kind.UPDATE;
            d.name = in.quotedIfThere().orElse("Update");
        } else if (in.take("if")) {
            d.kind = Draft.Kind.DECIDE;
            String condition = condition(in.rest("A condition"));
            d.name = "Is " + condition + "?";
            d.cases.add(new dastur.core.workflow.Step.BranchCase("yes", condition));
        } else if (in.take("decide")) {
            d.kind = Draft.Kind.DECIDE;
            d.name = in.quotedIfThere().orElse("Decide");
        } else if (in.take("wait")) {
            waiting(d);
        } else if (in.take("for each")) {
            forEach(d);
        } else if (in.take("repeat")) {
            repeat(d);
        } else if (in.take("stage")) {
            d.kind = Draft.Kind.STAGE;
            d.name = in.quotedIfThere().orElse("Stage");
        } else if (in.take("side by side")) {
            d.kind = Draft.Kind.FORK;
            d.name = in.quotedIfThere().orElse("Side by side");
            d.number = in.take("until the first") ? in.number("How many lanes") : null;
            if (d.number != null) {
                in.take("are done");
            }
        } else if (in.take("call in")) {
            callIn(d);
        } else if (in.take("call")) {
            d.kind = Draft.Kind.CALL;
            d.workflow = new WorkflowKey(in.named("workflow", names.workflows()));
            if (in.take("on a new")) {
                d.raises = java.util.Arrays.stream(dastur.core.ticket.TicketKind.values())
                        .filter(k -> in.take(k.word()))
                        .findFirst()
                        .orElseThrow(() -> in.wrong("A kind of ticket is expected here: incident, change or request."));
            } else if (in.take("on ticket")) {
                d.key = in.until("A ticket's number", List.of(" as \""));
                boolean ignored = in.take("as");
            }
            d.name = in.quotedIfThere().orElse(names.workflows().getOrDefault(d.workflow.value(), "Call"));
            inlineInputs(d);
        } else if (!end(d)) {
            String first = in.left().split("[\\s\"]", 2)[0];
            throw in.wrong(
                    first.isEmpty()
                            ? "A sentence is expected here, such as: ask … or run …"
                            : "A step does not begin with '" + dastur.core.json.Texts.clip(first, 30) + "'.",
                    Near.to(first, HEADS));
        }
        return d;
    }

    private void ask(Draft d) {
        d.kind = Draft.Kind.ASK;
        d.parties.add(party());
        d.name = in.quoted("What is to be done");
        d.span = in.spanAfter("within").orElse(null);
        if (in.take(":")) {
            do {
                d.outcomes.add(in.atQuote() ? in.quoted("An outcome") : in.until("An outcome", List.of(",")));
            } while (in.take(","));
        }
    }

    private void approve(Draft d) {
        d.kind = Draft.Kind.APPROVE;
        d.name = in.quotedIfThere().orElse("Approve?");
        in.expect("by");
        d.rule = rule();
        parties(d);
        d.span = in.spanAfter("within").orElse(null);
    }

    private ApprovalRule rule() {
        if (in.take("everyone of") || in.take("everyone in") || in.take("all of")) {
            return new ApprovalRule.Everyone();
        }
        if (in.take("at least")) {
            int count = in.number("How many must approve");
            boolean share = in.take("percent");
            in.take("of");
            return share ? new ApprovalRule.Share(count) : new ApprovalRule.AtLeast(count);
        }
        if (in.take("a majority of")) {
            return new ApprovalRule.Majority();
        }
        if (in.take("in sequence one from each of") || in.take("in sequence")) {
            return new ApprovalRule.InSequence();
        }
        if (in.take("one from each of")) {
            return new ApprovalRule.OneFromEach();
        }
        boolean ignored = in.take("any one of") || in.take("one of");
        return new ApprovalRule.AnyOne();
    }

    private void parties(Draft d) {
        do {
            boolean ignored = in.take("one of");
            d.parties.add(party());
        } while (in.take(",") || in.take("and"));
    }

    /** How the levels of a rota are said, from the first. */
    static final List<String> LEVELS = List.of(
            "on call for", "second on call for", "third on call for", "fourth on call for", "fifth on call for");

    Party party() {
        if (in.take("the requester's manager")) {
            return new Party.Manager();
        }
        if (in.take("the requester") || in.take("requester")) {
            return new Party.Requester();
        }
        if (in.take("everybody who is")) {
            String role = in.named("role", Role.names());
            return new Party.OfRole(Role.of(role).orElseThrow(() -> in.wrong("There is no role '" + role + "'.")));
        }
        for (int level = 1; level <= LEVELS.size(); level++) {
            if (in.take(LEVELS.get(level - 1))) {
                return new Party.OnCall(new RotaKey(in.named("rota", names.rotas())), level);
            }
        }
        if (in.take("the ticket's group")) {
            return new Party.TicketGroup();
        }
        if (in.take("the CI's owner")) {
            return new Party.CiOwner();
        }
        if (in.take("whoever is")) {
            if (in.atQuote()) {
                return new Party.TakesPart(in.quoted("What they take part as"));
            }
            in.expect("(");
            String expression = in.until("An expression", List.of(")"));
            in.expect(")");
            return new Party.Computed(expression);
        }
        if (in.take("person")) {
            return new Party.OfPerson(new PersonId(in.named("person", names.people())));
        }
        if (in.take("group")) {
            return new Party.OfGroup(new GroupId(in.named("group", names.groups())));
        }
        String id = in.named("group or person", names.parties());
        boolean person = names.people().containsKey(id) && !names.groups().containsKey(id);
        return person ? new Party.OfPerson(new PersonId(id)) : new Party.OfGroup(new GroupId(id));
    }

    private void acting(Draft d, Draft.Kind kind) {
        d.kind = kind;
        d.action = new ActionKey(in.named("action", names.actions()));
        d.name = in.quotedIfThere().orElse(names.actions().getOrDefault(d.action.value(), d.action.value()));
        inlineInputs(d);
        d.span = in.spanAfter("within").orElse(null);
        if (in.take("at most")) {
            d.number = in.number("How often it is tried");
            boolean ignored = in.take("tries") || in.take("try");
        }
    }

    private void inlineInputs(Draft d) {
        Matcher m = INLINE_INPUT.matcher(in.left());
        while (m.lookingAt()) {
            in.take(m.group());
            d.inputs.put(m.group(1), m.group(2));
            m = INLINE_INPUT.matcher(in.left());
        }
    }

    private void check(Draft d) {
        d.kind = Draft.Kind.CHECK;
        d.name = in.quotedIfThere().orElse("Check");
        d.span = in.spanAfter("settling within").orElse(null);
        d.every = in.spanAfter("every").orElse(null);
        if (in.take("reviewed by")) {
            d.parties.add(party());
        }
    }

    private void tell(Draft d) {
        d.kind = Draft.Kind.TELL;
        do {
            d.parties.add(party());
        } while (in.take(",") || in.take("and"));
        boolean ignored = in.take("by mail");
        d.subject = in.quoted("The subject of the message");
        d.text = in.quotedIfThere().orElse(null);
        d.name = "Tell: " + d.subject;
        if (in.take("as")) {
            d.name = in.quoted("The step's name");
        }
    }

    /** {@code ticket.group = 'x'} or {@code ticket.title to "text"}. */
    void assignment(Draft d) {
        String target = in.until("What is to be set", List.of(" = ", " to ")).strip();
        if (in.take("=")) {
            d.assignments.add(new dastur.core.workflow.Step.Assignment(target, in.rest("The value"), null));
        } else {
            in.expect("to");
            d.assignments.add(new dastur.core.workflow.Step.Assignment(target, null, in.quoted("The text")));
        }
    }

    private void waiting(Draft d) {
        d.kind = Draft.Kind.WAIT;
        if (in.take("until")) {
            d.expression = in.until("A moment", List.of(" as \""));
            d.name = "Wait until " + d.expression;
        } else if (in.take("for a reply of") || in.take("for a reply from")) {
            d.parties.add(party());
            d.name = "Wait for a reply";
        } else if (in.take("for signal")) {
            d.signal = in.atQuote() ? in.quoted("The signal's name") : in.key("The signal's name");
            if (in.take("with key")) {
                d.key = in.until("A key", List.of(" within ", " as \""));
            }
            d.name = "Wait for " + d.signal;
        } else if (in.take("for")) {
            d.condition = condition(in.until("A condition", List.of(" within ", " as \"")));
            d.name = "Wait for " + d.condition;
        } else {
            d.span = in.span();
            d.name = "Wait " + d.span;
        }
        d.every = in.spanAfter("within").orElse(null);
        if (in.take("as")) {
            d.name = in.quoted("The step's name");
        }
    }

    private void forEach(Draft d) {
        d.kind = Draft.Kind.FOR_EACH;
        d.item = in.id("The name of the item");
        in.expect("in");
        d.expression = in.until("A list", List.of(", in order", " at a time", ", stop at", " as \""))
                .strip();
        if (d.expression.endsWith(":")) {
            d.expression = d.expression.substring(0, d.expression.length() - 1).strip();
        }
        d.number = 1;
        Matcher atOnce = Pattern.compile("(.*),\\s*(\\d+)").matcher(d.expression);
        boolean together = in.take("at a time");
        if (together && atOnce.matches()) {
            d.expression = atOnce.group(1).strip();
            d.number = Integer.parseInt(atOnce.group(2));
        } else if (together) {
            throw in.wrong("How many at a time? Write for each c in list, 3 at a time.");
        }
        boolean ordered = in.take(", in order");
        d.flag = in.take(", stop at the first failure") || ordered && in.take(", stop at the first failure");
        d.name = in.take("as") ? in.quoted("The step's name") : "Each " + d.item;
        boolean ignored = in.take(":");
    }

    private void repeat(Draft d) {
        d.kind = Draft.Kind.REPEAT;
        in.expect("until");
        List<String> stops = List.of(", every ", ", at most ", ", within ", " as \"");
        d.condition = condition(in.until("A condition", stops));
        d.every = in.spanAfter(", every").orElse(null);
        d.number = 100;
        if (in.take(", at most")) {
            d.number = in.number("How many rounds");
            boolean ignored = in.take("rounds") || in.take("round");
        }
        d.span = in.spanAfter(", within").orElse(null);
        d.name = in.take("as") ? in.quoted("The step's name") : "Until " + d.condition;
        boolean ignored = in.take(":");
    }

    private void callIn(Draft d) {
        d.kind = Draft.Kind.CALL_IN;
        in.expect("by");
        d.ladder = new LadderKey(in.named("ladder", names.ladders()));
        d.subject = in.take("as") ? in.quoted("What whoever comes takes part as") : null;
        d.name = in.quoted("Why people are called in");
        d.span = in.spanAfter("within").orElse(Span.parse("30 min"));
    }

    private boolean end(Draft d) {
        Optional<dastur.core.workflow.Step.Ending> ending = ending();
        if (ending.isEmpty()) {
            return false;
        }
        d.kind = Draft.Kind.END;
        d.ending = ending.get();
        d.result = in.quotedIfThere().orElse("done");
        d.name = in.take("as") ? in.quoted("The step's name") : d.result;
        return true;
    }

    private Optional<dastur.core.workflow.Step.Ending> ending() {
        if (in.take("done")) {
            return Optional.of(dastur.core.workflow.Step.Ending.LINE);
        }
        if (in.take("fail")) {
            return Optional.of(dastur.core.workflow.Step.Ending.FAILED);
        }
        if (in.take("leave by")) {
            return Optional.of(dastur.core.workflow.Step.Ending.LEAVE);
        }
        if (in.take("put back")) {
            return Optional.of(dastur.core.workflow.Step.Ending.PUT_BACK);
        }
        return in.take("stop") ? Optional.of(dastur.core.workflow.Step.Ending.RUN) : Optional.empty();
    }

    /** Conditions as people write them: = for ==, and, or, not. What stands in quotes is left alone. */
    static String condition(String written) {
        StringBuilder out = new StringBuilder();
        int i = 0;
        while (i < written.length()) {
            char c = written.charAt(i);
            if (c == '"' || c == '\'') {
                int end = i + 1;
                while (end < written.length() && written.charAt(end) != c) {
                    end += written.charAt(end) == '\\' ? 2 : 1;
                }
                end = Math.min(written.length(), end + 1);
                out.append(written, i, end);
                i = end;
            } else if (c == '='
                    && "=!<>".indexOf(i == 0 ? ' ' : written.charAt(i - 1)) < 0
                    && (i + 1 >= written.length() || written.charAt(i + 1) != '=')) {
                out.append("==");
                i++;
            } else if (Character.isLetter(c)) {
                int end = i;
                while (end < written.length()
                        && (Character.isLetterOrDigit(written.charAt(end)) || written.charAt(end) == '_')) {
                    end++;
                }
                String word = written.substring(i, end);
                boolean part = i > 0 && written.charAt(i - 1) == '.';
                boolean gap = end < written.length() && written.charAt(end) == ' ';
                out.append(part || !gap ? word : OPERATORS.getOrDefault(word, word));
                i = end;
            } else {
                out.append(c);
                i++;
            }
        }
        return out.toString().replace("! ", "!");
    }

    private static final Map<String, String> OPERATORS =
            new LinkedHashMap<>(Map.of("and", "&&", "or", "||", "not", "!"));

    /** The parties of a list, for callers that read one by itself. */
    List<Party> list() {
        List<Party> all = new ArrayList<>();
        do {
            all.add(party());
        } while (in.take(","));
        return all;
    }
}
