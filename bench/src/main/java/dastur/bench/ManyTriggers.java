package dastur.bench;

import static dastur.core.signal.Sent.BOARD;
import static dastur.core.signal.Sent.BOARDS;
import static dastur.core.signal.Sent.NOW;

import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.Vocabulary;
import dastur.core.signal.Mapping;
import dastur.core.signal.Matter;
import dastur.core.signal.Sent;
import dastur.core.signal.Severity;
import dastur.core.signal.Signal;
import dastur.core.signal.Sort;
import dastur.core.signal.Source;
import dastur.core.start.Around;
import dastur.core.start.Routing;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Objects;

/** A signal that turns its matter, held against 10 to 1,000 triggers (I26); beside it what evaluating all conditions costs. */
final class ManyTriggers {
    private static final int ROUNDS = 400;

    private ManyTriggers() {}

    static void measure() {
        System.out.println("triggers | routed µs p50 | p95 | all conditions evaluated µs p50 | p95");
        for (int many : new int[] {10, 100, 1_000}) {
            Expressions expressions = new Expressions(Vocabulary.ofSignal(
                    FieldCatalogue.PLAIN, List.of(Field.of("pictureAge", "pictureAge", FieldType.WHOLE))));
            Signal signal = Sent.signal("s0", BOARDS, Sort.FAULT, Severity.MAJOR, 0);
            Routing.Facts facts = facts(many, signal, expressions);
            double[] routed = micros(() -> {
                if (Routing.route(signal, facts).starts().size() != 1) {
                    throw new IllegalStateException("another trigger holds");
                }
            });
            double[] evaluated = micros(() -> facts.triggers()
                    .forEach(t -> expressions.evaluate(
                            Objects.requireNonNull(t.trigger().condition()), facts.values())));
            System.out.printf(
                    "%8d | %13.0f | %3.0f | %31.0f | %3.0f%n", many, routed[0], routed[1], evaluated[0], evaluated[1]);
        }
    }

    private static Routing.Facts facts(int many, Signal signal, Expressions expressions) {
        List<Trigger.Live> triggers = new ArrayList<>();
        for (int i = 0; i < many; i++) {
            String condition = "ci.kind == 'board' && signal.pictureAge == " + (i == many - 1 ? 60 : 1_000 + i)
                    + " && signal.title.contains('Board')";
            Trigger.When when = new Trigger.SignalComes(null, BOARDS, Sort.FAULT, null, null);
            triggers.add(new Trigger.Live(
                    new WorkflowKey("of-" + i),
                    1,
                    "Of " + i,
                    new Trigger(new TriggerId("of-" + i), true, when, List.of(), condition)));
        }
        Matter first = Matter.first(signal, Objects.requireNonNull(signal.matter()));
        Source source = new Source(
                BOARDS,
                "Board monitor",
                true,
                Source.Proof.TOKEN,
                new Mapping(List.of()),
                Source.Otherwise.KEPT,
                false,
                null);
        return new Routing.Facts(
                source,
                null,
                first.after(signal),
                null,
                null,
                Around.NOTHING,
                null,
                triggers,
                expressions,
                Scope.of(Map.of("signal", signal.words(), "ci", BOARD.values()), NOW),
                NOW);
    }

    /** The median and the 95th of 100 of several rounds after as many to warm up, in microseconds. */
    private static double[] micros(Runnable work) {
        double[] times = new double[ROUNDS];
        for (int round = -ROUNDS; round < ROUNDS; round++) {
            long begin = System.nanoTime();
            work.run();
            if (round >= 0) {
                times[round] = (System.nanoTime() - begin) / 1e3;
            }
        }
        Arrays.sort(times);
        return new double[] {times[ROUNDS / 2], times[ROUNDS * 95 / 100]};
    }
}
