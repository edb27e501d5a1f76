package dastur.demo;

import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.SentAs;
import dastur.core.workflow.SignIn;
import dastur.standins.PartsStore;
import dastur.store.Workflows;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;

/** The store of spare parts: signed in to for a token, with a list in pages, parts in XML and orders as forms (M6, M10). */
final class DemoParts {
    static final ActionKey LOOK = new ActionKey("parts.look");

    private DemoParts() {}

    static void connect(Consumer<Connection> set, String standins) {
        set.accept(new Connection(
                "parts",
                "Parts store",
                standins,
                List.of(),
                DemoWorkflows.SECRET,
                new SignIn.ClientCredentials(standins + "/parts/token", PartsStore.CLIENT, null)));
    }

    static void actions(Workflows workflows) {
        workflows.putAction(reads(
                "parts.list",
                "List the spare parts",
                "Reads all pages of the store's list: what it has, where, and how many.",
                new Action.HttpCall("GET", "/parts", null, null, null, new Action.Pages("/parts", null, 20)),
                List.of(),
                new Action.Output(Field.of("parts", "Parts", FieldType.LIST).asRequired(), "/parts")));
        workflows.putAction(reads(
                LOOK.value(),
                "Look for a spare part",
                "Reads where the store keeps a part, and how many it has.",
                new Action.HttpCall("GET", "/parts/{{ input.part }}", null, null, null),
                List.of(part()),
                new Action.Output(Field.of("name", "Name", FieldType.TEXT).asRequired(), "xpath:/part/name"),
                new Action.Output(Field.of("shelf", "Shelf", FieldType.TEXT), "xpath:/part/shelf"),
                new Action.Output(Field.of("stock", "In stock", FieldType.WHOLE).asRequired(), "xpath:/part/stock")));
        workflows.putAction(new Action(
                new ActionKey("parts.order"),
                "Order a spare part",
                "Has the store send a part to where a CI stands; ordered twice under the same key, it is sent once.",
                "parts",
                new Action.HttpCall(
                        "POST",
                        "/parts/orders",
                        Map.of(SentAs.CONTENT_TYPE, SentAs.FORM.type(), "Idempotency-Key", "{{ call.key }}"),
                        "{\"part\":\"{{ input.part }}\",\"for\":\"{{ input.ci }}\"}",
                        null),
                List.of(part(), Field.of("ci", "For", FieldType.CI).asRequired()),
                List.of(new Action.Output(
                        Field.of("number", "Order", FieldType.TEXT).asRequired(), "xpath:/order/@number")),
                List.of(),
                Action.Repeat.KEYED,
                true,
                Span.parse("20 s"),
                2,
                Span.parse("5 s")));
    }

    private static Field part() {
        return Field.of("part", "Part", FieldType.TEXT).asRequired();
    }

    private static Action reads(
            String key,
            String name,
            String description,
            Action.HttpCall call,
            List<Field> inputs,
            Action.Output... outputs) {
        return new Action(
                new ActionKey(key),
                name,
                description,
                "parts",
                call,
                inputs,
                List.of(outputs),
                List.of(),
                Action.Repeat.FREE,
                false,
                Span.parse("20 s"),
                2,
                Span.parse("5 s"));
    }
}
