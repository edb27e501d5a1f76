package dastur.bench;

import dastur.core.finding.Findings;
import dastur.core.finding.KnownOrganisation;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.rehearsal.Exploration;
import dastur.core.rehearsal.Rehearsal;
import dastur.core.rehearsal.Setting;
import dastur.core.run.LookupKey;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** How long a designer waits: findings, a rehearsal to the end, exploring, and reading the text, at several sizes. */
final class Design {
    private static final PersonId SOMEBODY = new PersonId("teo");
    private static final int ROUNDS = 25;

    private Design() {}

    static void measure() {
        System.out.println("steps | findings ms | rehearsal ms | exploring ms | text to model and back ms");
        for (int steps : new int[] {12, 60, 300}) {
            WorkflowVersion version = workflow(steps);
            Setting setting = new Setting(
                    version,
                    TicketKind.INCIDENT,
                    Map.of("title", "x", "impact", 2L),
                    Map.of(),
                    SOMEBODY,
                    Instant.parse("2026-03-02T10:00:00Z"),
                    Design::look);
            double findings = millis(() -> Findings.of(version, byHand(), around()));
            double played = millis(() -> {
                Rehearsal rehearsal = new Rehearsal(setting);
                rehearsal.toTheEnd(rehearsal.begin());
            });
            double explored = steps > 60 ? Double.NaN : millis(() -> Exploration.of(setting));
            double text = millis(() -> Notation.read(Notation.write(version), 1, Names.NONE));
            System.out.printf("%5d | %11.1f | %12.1f | %12.1f | %10.1f%n", steps, findings, played, explored, text);
        }
    }

    /** The median of several rounds after as many to warm up, in milliseconds. */
    private static double millis(Runnable work) {
        double[] times = new double[ROUNDS];
        for (int round = -ROUNDS; round < ROUNDS; round++) {
            long start = System.nanoTime();
            work.run();
            if (round >= 0) {
                times[round] = (System.nanoTime() - start) / 1e6;
            }
        }
        java.util.Arrays.sort(times);
        return times[ROUNDS / 2];
    }

    /** A third of the steps in three lines side by side, the rest in a row with a branch and a message here and there. */
    private static WorkflowVersion workflow(int steps) {
        StringBuilder text = new StringBuilder("workflow w \"W\" for incident\n  owner teo\n");
        int count = 2;
        int row = 0;
        while (count < steps * 2 / 3) {
            row++;
            if (row % 5 == 0) {
                text.append("b%d: decide \"B%d?\"\n  when \"yes\" if ticket.impact == %d\n  otherwise -> n%d\n"
                        .formatted(row, row, row % 4 + 1, row));
                text.append("n%d: tell the requester \"About %d\"\n  say \"{{ ticket.title }}\"\n".formatted(row, row));
                count += 2;
            } else {
                text.append("t%d: ask group technicians \"Do %d\" within 1 h: \"Done\"\n  form seen: text \"Seen\"\n"
                        .formatted(row, row));
                text.append(
                        row > 1 && (row - 1) % 5 != 0
                                ? "  say \"Before: {{ steps.t%d.seen }}\"\n".formatted(row - 1)
                                : "");
                count++;
            }
        }
        text.append("lines: side by side \"Lines\"\n");
        int each = Math.max(1, (steps - count - 1) / 3 - 1);
        for (int lane = 0; lane < 3; lane++) {
            text.append("  lane \"Line %d\"\n".formatted(lane));
            for (int i = 0; i < each; i++) {
                text.append("    l%dx%d: ask group technicians \"Line %d step %d\": \"Done\"\n"
                        .formatted(lane, i, lane, i));
            }
            text.append("    l%dend: done \"x\"\n".formatted(lane));
        }
        text.append("end: done \"done\"\n");
        Notation.Read read = Notation.read(text.toString(), 1, Names.NONE);
        if (read.version() == null) {
            throw new IllegalStateException(read.problems().toString());
        }
        return read.version();
    }

    private static List<Trigger> byHand() {
        return List.of(new Trigger(new TriggerId("t"), true, new Trigger.ByHand(null), List.of(), null));
    }

    private static Group group(GroupId id) {
        return new Group(id, id.value(), List.of(SOMEBODY));
    }

    private static Person person(PersonId id) {
        return new Person(id, id.value(), "x@kestrel.example", Set.of(Role.AGENT), true);
    }

    private static KnownOrganisation around() {
        return new KnownOrganisation(
                new FieldCatalogue(List.of(), List.of()),
                id -> Optional.of(group(id)),
                id -> Optional.of(person(id)),
                key -> Optional.empty(),
                key -> Optional.empty());
    }

    private static Optional<?> look(LookupKey key) {
        return switch (key) {
            case LookupKey.OfPerson k -> Optional.of(person(k.id()));
            case LookupKey.OfGroup k -> Optional.of(group(k.id()));
            case LookupKey.Fields k -> Optional.of(new FieldCatalogue(List.of(), List.of()));
            default -> Optional.empty();
        };
    }
}
