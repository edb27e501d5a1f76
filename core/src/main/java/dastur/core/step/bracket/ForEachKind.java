package dastur.core.step.bracket;

import dastur.core.bpmn.Drawing;
import dastur.core.bpmn.Pen;
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
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Bracket.ForEach;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** A body for each item of a list (N18, D10). */
public final class ForEachKind implements Room<ForEach> {
    /** Names that mean something else in expressions. */
    private static final Set<String> TAKEN = Set.of(
            "ticket",
            "ci",
            "near",
            "wished",
            "service",
            "requester",
            "run",
            "input",
            "vars",
            "steps",
            "measured",
            "is",
            "now",
            "signal");

    private static final Pattern AT_ONCE = Pattern.compile("(.*),\\s*(\\d{1,6})");

    @Override
    public String word() {
        return "for each";
    }

    @Override
    public Class<ForEach> model() {
        return ForEach.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of();
    }

    @Override
    public Facts facts(ForEach step) {
        return Facts.PLAIN;
    }

    @Override
    public void yields(ForEach step, Vocabulary.Declared declared, Yield into) {
        into.item(step.item());
        into.value("count", "Items", FieldType.WHOLE)
                .value("succeeded", "Items done", FieldType.WHOLE)
                .value("failed", "Items failed", FieldType.WHOLE)
                .value("items", "Each item with its result and steps", FieldType.LIST);
    }

    // --- runs

    @Override
    public void open(ForEach step, VisitId visit, boolean guarded, Here here) {
        here.open(visit, step);
    }

    @Override
    public List<Answer> options(ForEach step, Visit visit, Rehearsing in) {
        return List.of();
    }

    @Override
    public Played give(ForEach step, Visit visit, Answer answer, Rehearsing in) {
        return in.clockOnly(visit);
    }

    // --- findings

    @Override
    public void inspect(ForEach each, Inspection in) {
        in.typed(each, "list", "The list of '" + each.name() + "'", each.list(), FieldType.LIST);
        if (TAKEN.contains(each.item())) {
            in.blocks(
                    "item's name",
                    each,
                    "item",
                    "The items of '" + each.name() + "' are called '" + each.item()
                            + "', which means something else in expressions. Choose another word.");
        }
        if (each.atOnce() > 1) {
            Brackets.writesOutside(each, each.body(), in);
        }
    }

    @Override
    public void reads(ForEach s, Reads into) {
        into.expression(s.list());
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("for each");
    }

    @Override
    public Begun begin(String head, Scanner in) {
        String item = in.id("The name of the item");
        in.expect("in");
        String said = in.until("A list", List.of(", in order", " at a time", ", stop at", " as \""))
                .strip();
        String written =
                said.endsWith(":") ? said.substring(0, said.length() - 1).strip() : said;
        Matcher atOnce = AT_ONCE.matcher(written);
        boolean together = in.take("at a time");
        if (together && !atOnce.matches()) {
            throw in.wrong("How many at a time? Write for each c in list, 3 at a time.");
        }
        String list = together ? atOnce.group(1).strip() : written;
        int number = together ? Integer.parseInt(atOnce.group(2)) : 1;
        boolean ordered = in.take(", in order");
        boolean stops = in.take(", stop at the first failure");
        String name = in.take("as") ? in.quoted("The step's name") : "Each " + item;
        boolean ignored = in.take(":");
        List<Step> body = new ArrayList<>();
        return new Begun(
                        name,
                        (id, ways, expected) ->
                                new ForEach(id, name, list, item, number, stops, new Level(body), ways, expected))
                .holding(body::addAll)
                .alone(end -> body.add(end.get()));
    }

    @Override
    public String sentence(ForEach s) {
        return "for each " + s.item() + " in " + s.list()
                + (s.atOnce() == 1 ? ", in order" : ", " + s.atOnce() + " at a time")
                + (s.stopAtFirst() ? ", stop at the first failure" : "") + " as " + Phrases.quoted(s.name());
    }

    @Override
    public void settings(ForEach s, Out out) {
        // Its steps stand below it.
    }

    // --- diagram

    @Override
    public Drawing drawing(ForEach s) {
        return Drawing.of("subProcess").with(pen -> {
            Pen many = pen.child("multiInstanceLoopCharacteristics");
            many.attribute("isSequential", String.valueOf(s.atOnce() == 1));
            many.child("loopCardinality").expression("size(" + s.list() + ")");
            pen.inside(s.body());
        });
    }

    @Override
    public String usualExit() {
        return "all ok";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of();
    }
}
