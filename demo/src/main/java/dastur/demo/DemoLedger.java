package dastur.demo;

import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Limit;
import dastur.store.Workflows;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;

/** The ledger of tickets sold, a database: what a kiosk sold is read, and what was sold twice is made void (M9). */
final class DemoLedger {
    static final ActionKey SALES = new ActionKey("ledger.sales");

    private DemoLedger() {}

    static void connect(Consumer<Connection> set, String ledger) {
        set.accept(new Connection("ledger", "Sales ledger", ledger, List.of(), DemoWorkflows.SECRET));
    }

    static void actions(Workflows workflows) {
        workflows.putAction(new Action(
                        SALES,
                        "Read what a kiosk sold",
                        "The last tickets that a kiosk sold, with their numbers; a statement of the ledger's own database.",
                        "ledger",
                        new Action.HttpCall(
                                "QUERY",
                                "/",
                                null,
                                "select number, fare, pence, sold, void from sale where kiosk = {{ input.kiosk }} order by sold desc limit 20",
                                null),
                        List.of(Field.of("kiosk", "Kiosk", FieldType.CI).asRequired()),
                        List.of(
                                new Action.Output(
                                        Field.of("sales", "Sales", FieldType.LIST)
                                                .asRequired(),
                                        "/rows"),
                                new Action.Output(
                                        Field.of("count", "How many", FieldType.WHOLE)
                                                .asRequired(),
                                        "/count")),
                        List.of(),
                        Action.Repeat.FREE,
                        false,
                        Span.parse("20 s"),
                        2,
                        Span.parse("5 s"))
                .limited(Map.of("kiosk", new Limit(null, null, null, List.of("kiosk"), null))));
        workflows.putAction(new Action(
                new ActionKey("ledger.void"),
                "Make a sale void",
                "Marks one ticket as sold by a slip; said twice, it is void all the same.",
                "ledger",
                new Action.HttpCall(
                        "CHANGE", "/", null, "update sale set void = true where number = {{ input.number }}", null),
                List.of(Field.of("number", "Number of the sale", FieldType.WHOLE)
                        .asRequired()),
                List.of(new Action.Output(
                        Field.of("count", "Marked", FieldType.WHOLE).asRequired(), "/count")),
                List.of(),
                Action.Repeat.FREE,
                true,
                Span.parse("20 s"),
                2,
                Span.parse("5 s")));
    }
}
