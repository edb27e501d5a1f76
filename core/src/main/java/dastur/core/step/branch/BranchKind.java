package dastur.core.step.branch;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.bpmn.Adopts;
import dastur.core.bpmn.Drawing;
import dastur.core.expression.Clause;
import dastur.core.expression.Verdict;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.notation.Begun;
import dastur.core.notation.Out;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.people.Actor;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Here;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.workflow.Brings;
import dastur.core.workflow.DecisionTable;
import dastur.core.workflow.Facts;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** A decision on data: the first case whose condition holds is taken, or what a table says (N13). */
public final class BranchKind implements Room<Branch>, Adopts {
    @Override
    public String word() {
        return "branch";
    }

    @Override
    public Class<Branch> model() {
        return Branch.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of(Brings.of(Branched.class));
    }

    @Override
    public Facts facts(Branch step) {
        LinkedHashMap<String, String> cases = new LinkedHashMap<>();
        if (step.table() == null) {
            step.cases().forEach(c -> cases.putIfAbsent(c.name(), c.when()));
        }
        return Facts.PLAIN.atOnce(true).choosing(cases);
    }

    @Override
    public void yields(Branch step, Vocabulary.Declared declared, Yield into) {
        // The case taken is how it ended.
    }

    // --- runs

    @Override
    public void open(Branch step, VisitId visit, boolean guarded, Here here) {
        List<Clause.Explained> seen = new ArrayList<>();
        String exit = "otherwise";
        for (BranchCase one : TableConditions.cases(step)) {
            Clause.Explained explained = here.expressions().explain(one.when(), here.scope());
            seen.add(explained);
            if (explained.verdict() == Verdict.TRUE) {
                exit = one.name();
                break;
            }
        }
        here.emit(Actor.SYSTEM, step.id(), visit, new Branched(exit, Here.way(step, exit), seen));
    }

    @Override
    public List<Answer> options(Branch step, Visit visit, Rehearsing in) {
        return List.of();
    }

    @Override
    public Played give(Branch step, Visit visit, Answer answer, Rehearsing in) {
        return in.clockOnly(visit);
    }

    // --- findings

    @Override
    public void inspect(Branch s, Inspection in) {
        DecisionTable table = s.table();
        if (s.cases().isEmpty() && table == null) {
            in.blocks("no case", s, "cases", "'" + s.name() + "' decides nothing: it has no case.");
        }
        if (table != null) {
            table.inputs()
                    .forEach(i -> in.expression(
                            s, "table", "The column '" + i.label() + "' of '" + s.name() + "'", i.value()));
            new TableChecks(in).check(s, table);
        }
        s.cases()
                .forEach(c -> in.condition(
                        s, "cases", "The condition of '" + c.name() + "' in '" + s.name() + "'", c.when()));
    }

    @Override
    public void reads(Branch s, Reads into) {
        s.cases().forEach(c -> into.expression(c.when()));
        if (s.table() != null) {
            s.table().inputs().forEach(i -> into.expression(i.value()));
        }
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("if", "decide");
    }

    /** What is read of it. */
    private static final class Read {
        private final List<BranchCase> cases = new ArrayList<>();
        private final List<DecisionTable.Input> columns = new ArrayList<>();
        private final List<DecisionTable.Row> rows = new ArrayList<>();
        private DecisionTable.@Nullable Hit hit;
    }

    @Override
    public Begun begin(String head, Scanner in) {
        Read read = new Read();
        String name;
        if (head.equals("if")) {
            String condition = Phrases.condition(in.rest("A condition"));
            name = "Is " + condition + "?";
            read.cases.add(new BranchCase("yes", condition));
        } else {
            name = in.quotedIfThere().orElse("Decide");
        }
        return new Begun(
                        name,
                        (id, ways, expected) -> new Branch(
                                id,
                                name,
                                read.cases,
                                read.hit == null ? null : new DecisionTable(read.columns, read.hit, read.rows),
                                ways,
                                expected))
                .line("when", line -> {
                    String of = line.in().quoted("The case's name");
                    line.in().expect("if");
                    read.cases.add(
                            new BranchCase(of, Phrases.condition(line.in().rest("A condition"))));
                })
                .line("by table", line -> {
                    read.hit = line.in().take("unique") ? DecisionTable.Hit.UNIQUE : DecisionTable.Hit.FIRST;
                    boolean ignored = line.in().take("first");
                    line.each(one -> table(one, read));
                });
    }

    private static void table(Scanner in, Read read) {
        if (in.take("column")) {
            String label = in.quoted("The column's heading");
            in.expect("=");
            read.columns.add(new DecisionTable.Input(label, in.rest("An expression")));
            return;
        }
        in.expect("row");
        List<String> cells = new ArrayList<>();
        do {
            cells.add(in.until("A cell", List.of(" | ", " -> ")));
        } while (in.take("|"));
        in.expect("->");
        read.rows.add(new DecisionTable.Row(cells, in.quoted("The case it leads to")));
    }

    @Override
    public String sentence(Branch s) {
        return "decide " + Phrases.quoted(s.name());
    }

    @Override
    public void settings(Branch s, Out out) {
        s.cases().forEach(c -> out.line("when " + Phrases.quoted(c.name()) + " if " + c.when()));
        DecisionTable table = s.table();
        if (table == null) {
            return;
        }
        out.line("by table " + table.hit().word());
        Out below = out.below();
        table.inputs().forEach(i -> below.line("column " + Phrases.quoted(i.label()) + " = " + i.value()));
        table.rows()
                .forEach(r -> below.line("row "
                        + r.cells().stream().map(c -> c.isBlank() ? "-" : c).collect(Collectors.joining(" | "))
                        + " -> " + Phrases.quoted(r.result())));
    }

    // --- diagram

    @Override
    public Drawing drawing(Branch s) {
        return Drawing.of(s.table() == null ? "exclusiveGateway" : "businessRuleTask");
    }

    @Override
    public String usualExit() {
        return "done";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of();
    }

    /** Conditions as the file has them now, and cases that were added to it. */
    @Override
    public void adopt(ObjectNode own, List<Way> leaving) {
        if (own.get("table") != null) {
            return;
        }
        ArrayNode cases = own.withArray("/cases");
        for (Way way : leaving) {
            if (way.exit() == null || way.exit().equals("otherwise") || way.condition() == null) {
                continue;
            }
            Optional<ObjectNode> known = Optional.empty();
            for (JsonNode one : cases) {
                if (one.path("name").asText().equals(way.exit())) {
                    known = Optional.of((ObjectNode) one);
                }
            }
            ObjectNode one = known.orElseGet(() -> cases.addObject().put("name", way.exit()));
            if (way.saysOtherThan(one.path("when").asText())) {
                one.put("when", way.condition());
            }
        }
    }
}
