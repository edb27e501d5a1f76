package dastur.core.step.update;

import dastur.core.bpmn.Drawing;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.notation.Begun;
import dastur.core.notation.Out;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Here;
import dastur.core.run.PlannedCi;
import dastur.core.run.Reaches;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Sets fields of the ticket and its CI, and run variables, in one entry with before and after. */
public final class UpdateKind implements Room<Update>, Reaches<Update> {
    private static final List<String> FIXED = List.of("ticket.number", "ticket.kind", "ticket.createdAt");

    @Override
    public String word() {
        return "update";
    }

    @Override
    public Class<Update> model() {
        return Update.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of(Brings.of(Updated.class));
    }

    @Override
    public Facts facts(Update step) {
        Map<String, Optional<String>> sets = new LinkedHashMap<>();
        step.set().forEach(a -> sets.put(a.target(), a.said()));
        return Facts.PLAIN.atOnce(true).setting(sets);
    }

    @Override
    public void yields(Update step, Vocabulary.Declared declared, Yield into) {
        // What it sets is read where it was set.
    }

    // --- runs

    @Override
    public void open(Update step, VisitId visit, boolean guarded, Here here) {
        new UpdateRules(here).update(visit, step);
    }

    @Override
    public Optional<String> reaches(Update step, Here here) {
        List<String> set = step.set().stream()
                .map(Assignment::target)
                .filter(t -> t.startsWith("ci."))
                .toList();
        return set.isEmpty() ? Optional.empty() : Optional.of("set " + String.join(", ", set));
    }

    @Override
    public List<Answer> options(Update step, Visit visit, Rehearsing in) {
        return List.of();
    }

    @Override
    public Played give(Update step, Visit visit, Answer answer, Rehearsing in) {
        return in.clockOnly(visit);
    }

    // --- findings

    @Override
    public void inspect(Update s, Inspection in) {
        if (s.set().isEmpty()) {
            in.blocks("nothing to set", s, "set", "'" + s.name() + "' sets nothing.");
        }
        boolean makes = s.set().stream().anyMatch(a -> a.target().equals(PlannedCi.ID));
        boolean ofKind = s.set().stream().anyMatch(a -> a.target().equals(PlannedCi.KIND));
        if (makes && !ofKind) {
            in.blocks("CI without kind", s, "set", "'" + s.name() + "' makes a CI: say its kind too, as ci.kind.");
        }
        inspectOf(s, makes, in);
        s.set().forEach(set -> {
            if (ofKind && !makes && set.target().equals(PlannedCi.KIND)) {
                in.blocks(
                        "unknown field",
                        s,
                        "set",
                        "'" + s.name() + "' cannot set 'ci.kind': a kind is said once, with ci.id, when a CI is made.");
            } else {
                inspect(s, set, in);
            }
            if (set.target().equals("ci.life")
                    && set.said()
                            .filter(l -> !ConfigurationItem.LIVES.contains(l))
                            .isPresent()) {
                in.blocks(
                        "unknown life",
                        s,
                        "set",
                        "'" + s.name() + "' sets a life that no CI has; it is one of: "
                                + String.join(", ", ConfigurationItem.LIVES) + ".");
            }
        });
    }

    private static void inspectOf(Update s, boolean makes, Inspection in) {
        if (s.of() == null) {
            return;
        }
        in.typed(s, "of", "The CI of '" + s.name() + "'", s.of(), FieldType.TEXT);
        if (makes) {
            in.blocks(
                    "two CIs",
                    s,
                    "of",
                    "'" + s.name() + "' makes a CI and names another. Set the other's values in a step of its own.");
        } else if (s.set().stream().noneMatch(a -> a.target().startsWith("ci."))) {
            in.warns("CI not set", s, "of", "'" + s.name() + "' names a CI, and sets nothing of it.");
        }
    }

    private static void inspect(Update s, Assignment set, Inspection in) {
        Optional<Field> field = in.expressions().vocabulary().field(set.target());
        boolean settable = set.target().startsWith("ticket.")
                || set.target().startsWith("ci.")
                || set.target().startsWith("vars.");
        if (field.isEmpty() || !settable || FIXED.contains(set.target())) {
            in.blocks("unknown field", s, "set", "'" + s.name() + "' cannot set '" + set.target() + "'.");
        } else if (set.text() != null) {
            in.text(s, "set", set.text());
            if (set.value() != null) {
                in.blocks("two values", s, "set", "'" + set.target() + "' has both a text and an expression.");
            }
        } else {
            String value = set.value() == null ? "" : set.value();
            in.value(s, "set", "The value for '" + set.target() + "' in '" + s.name() + "'", value, field.get());
            if (set.target().equals("ticket.state")) {
                in.state(s, "set", value);
            }
        }
    }

    @Override
    public void reads(Update s, Reads into) {
        into.expression(s.of());
        s.set().forEach(a -> {
            into.expression(a.value());
            into.text(a.text());
        });
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("set", "update");
    }

    @Override
    public Begun begin(String head, Scanner in) {
        List<Assignment> set = new ArrayList<>();
        String name;
        if (head.equals("set")) {
            set.add(assignment(in));
            name = "Set " + set.getFirst().target();
        } else {
            name = in.quotedIfThere().orElse("Update");
        }
        String[] of = {null};
        return new Begun(name, (id, ways, expected) -> new Update(id, name, of[0], set, ways, expected))
                .line("the ci is", line -> of[0] = line.in().rest("The CI"))
                .line("set", line -> set.add(assignment(line.in())));
    }

    /** {@code ticket.group = 'x'} or {@code ticket.title to "text"}. */
    private static Assignment assignment(Scanner in) {
        String target = in.until("What is to be set", List.of(" = ", " to ")).strip();
        if (in.take("=")) {
            return new Assignment(target, in.rest("The value"), null);
        }
        in.expect("to");
        return new Assignment(target, null, in.quoted("The text"));
    }

    @Override
    public String sentence(Update s) {
        return "update " + Phrases.quoted(s.name());
    }

    @Override
    public void settings(Update s, Out out) {
        if (s.of() != null) {
            out.line("the ci is " + s.of());
        }
        s.set()
                .forEach(a -> out.line("set " + a.target()
                        + (a.text() != null ? " to " + Phrases.quoted(a.text()) : " = " + a.value())));
    }

    // --- diagram

    @Override
    public Drawing drawing(Update s) {
        return Drawing.of("scriptTask");
    }

    @Override
    public String usualExit() {
        return "done";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of();
    }
}
