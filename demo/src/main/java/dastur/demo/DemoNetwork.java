package dastur.demo;

import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.store.Workflows;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/** What the demo reaches otherwise than over HTTP: the boards on their piers by SSH, files of hosts by SFTP, the company's names by DNS (N46). */
final class DemoNetwork {
    /** The name of the secret that signs updates of the zone. */
    static final String ZONE_KEY = "zone-key";

    private DemoNetwork() {}

    static void connect(Consumer<Connection> set, Demo.Outside outside) {
        set.accept(new Connection("piers", "Gateway of the piers", outside.devices(), List.of(), DemoWorkflows.SECRET));
        set.accept(new Connection(
                "hosts",
                "Files of the hosts",
                outside.devices().replace("ssh://", "sftp://").replace("?hostkey", "/hosts?hostkey"),
                List.of(),
                DemoWorkflows.SECRET));
        set.accept(
                new Connection("directory", "Company directory", outside.directory(), List.of(), DemoWorkflows.SECRET));
        set.accept(new Connection(
                "machines",
                "Machine host of the Mooring Data Room",
                "relay://mooring-data-room/machines?as=http",
                List.of(),
                null));
        set.accept(new Connection(
                "room-scripts",
                "Scripts of the Mooring Data Room",
                "relay://mooring-data-room/scripts?as=script",
                List.of(),
                null));
        set.accept(new Connection(
                "shop",
                "Booking site, as passengers see it",
                "walk+" + outside.http(),
                List.of(),
                DemoWorkflows.SECRET));
        set.accept(new Connection("names", "Name server", outside.names(), List.of(), ZONE_KEY));
    }

    static void actions(Workflows workflows) {
        Field board = Field.of("board", "Board", FieldType.CI).asRequired();
        workflows.putAction(action(
                "board.log",
                "Read a board's log",
                "Reads the last lines of a departure board's log.",
                "piers",
                "RUN",
                "/",
                "[\"board\",\"log\",\"{{ input.board }}\"]",
                List.of(board),
                List.of(output("text", "Last lines", FieldType.LONG_TEXT, "/out")),
                false));
        workflows.putAction(action(
                "board.restart",
                "Restart a board",
                "Restarts a departure board; it is dark for a moment.",
                "piers",
                "RUN",
                "/",
                "[\"board\",\"restart\",\"{{ input.board }}\"]",
                List.of(board),
                List.of(),
                true));
        workflows.putAction(action(
                "board.look",
                "See whether a board's picture moves",
                "Says whether the picture of a departure board moves, stands still, or is starting.",
                "piers",
                "RUN",
                "/",
                "[\"board\",\"look\",\"{{ input.board }}\"]",
                List.of(board),
                List.of(output("picture", "Picture", FieldType.TEXT, "/json/picture")),
                false));
        gateways(workflows);
        Field host = Field.of("host", "Host", FieldType.CI).asRequired();
        workflows.putAction(action(
                "trace.list",
                "List a host's trace files",
                "Lists the trace files of a host, with size in bytes and age in days.",
                "hosts",
                "LIST",
                "/{{ input.host }}",
                null,
                List.of(host),
                List.of(
                        output("files", "Files", FieldType.LIST, "/files"),
                        output("bytes", "Bytes in all", FieldType.WHOLE, "/bytes")),
                false));
        workflows.putAction(action(
                "trace.remove",
                "Remove a trace file",
                "Removes one trace file of a host; one that is in use is refused.",
                "hosts",
                "REMOVE",
                "/{{ input.host }}/{{ input.file }}",
                null,
                List.of(host, Field.of("file", "File", FieldType.TEXT).asRequired()),
                List.of(output("size", "Bytes freed", FieldType.WHOLE, "/size")),
                true));
        shop(workflows);
        roster(workflows, "roster.join", "Let somebody see the roster", "JOIN");
        roster(workflows, "roster.leave", "Let somebody no longer see the roster", "LEAVE");
        machines(workflows);
        Field name = Field.of("name", "Name", FieldType.TEXT).asRequired();
        workflows.putAction(action(
                "name.address",
                "See where a name leads",
                "Asks the name server for a name's address.",
                "names",
                "ASK",
                "/{{ input.name }}/A",
                null,
                List.of(name),
                List.of(output("address", "Address", FieldType.TEXT, "/values/0")),
                false));
        workflows.putAction(action(
                "name.point",
                "Point a name to an address",
                "Sets a name's address, in place of the one it had; answers with that one.",
                "names",
                "UPDATE",
                "/",
                "{\"zone\":\"kestrel.example\",\"name\":\"{{ input.name }}\",\"type\":\"A\",\"ttl\":60,"
                        + "\"values\":[\"{{ input.address }}\"]}",
                List.of(name, Field.of("address", "Address", FieldType.TEXT).asRequired()),
                List.of(output("previous", "Address before", FieldType.TEXT, "/before/0")),
                true));
    }

    private static void gateways(Workflows workflows) {
        Field gateway = Field.of("gateway", "Gateway", FieldType.CI).asRequired();
        workflows.putAction(action(
                "gateway.devices",
                "Count the devices of a gateway",
                "Lists the devices behind a pier's gateway, whether each answers, and their software.",
                "piers",
                "RUN",
                "/",
                "[\"gateway\",\"devices\",\"{{ input.gateway }}\"]",
                List.of(gateway),
                List.of(
                        output("devices", "Devices", FieldType.LIST, "/json/devices"),
                        output("count", "How many", FieldType.WHOLE, "/json/count"),
                        output("answering", "How many answer", FieldType.WHOLE, "/json/answering"),
                        output("version", "Software of the gateway", FieldType.TEXT, "/json/version")),
                false));
        workflows.putAction(action(
                "gateway.save",
                "Save a gateway's settings",
                "Keeps the settings of a pier's gateway, so that they can be put back.",
                "piers",
                "RUN",
                "/",
                "[\"gateway\",\"save\",\"{{ input.gateway }}\"]",
                List.of(gateway),
                List.of(),
                true));
        workflows.putAction(action(
                "gateway.restart",
                "Start a gateway once more",
                "Starts a pier's gateway once more; its devices are away for a moment.",
                "piers",
                "RUN",
                "/",
                "[\"gateway\",\"restart\",\"{{ input.gateway }}\"]",
                List.of(gateway),
                List.of(),
                true));
        workflows.putAction(action(
                "gateway.install",
                "Put software onto a gateway",
                "Puts a version of the software onto a pier's gateway; one that is there already stays.",
                "piers",
                "RUN",
                "/",
                "[\"gateway\",\"install\",\"{{ input.gateway }}\",\"{{ input.version }}\"]",
                List.of(gateway, Field.of("version", "Version", FieldType.TEXT).asRequired()),
                List.of(output("version", "Version that is there now", FieldType.TEXT, "/json/version")),
                true));
    }

    /** Nobody but a person can buy there, or whoever walks through its pages as one would. */
    private static void shop(Workflows workflows) {
        workflows.putAction(new Action(
                new ActionKey("shop.trial"),
                "Buy a trial ticket",
                "Walks through the booking site as a passenger would, buys one ticket with the trial code, and checks sailing and price.",
                "shop",
                new Action.HttpCall("WALK", "/shop", null, """
                        [
                          {"choose": "Alder Pier", "in": "From"},
                          {"choose": "Gannet Quay", "in": "To"},
                          {"type": "{{ input.day }}", "into": "Day"},
                          {"press": "Show sailings"},
                          {"expect": "Sailings on {{ input.day }}"},
                          {"expect": "{{ input.sailing }}"},
                          {"picture": "Sailings"},
                          {"choose": "{{ input.sailing }}", "in": "Sailing"},
                          {"choose": "Adult", "in": "Fare"},
                          {"type": "Trial ticket", "into": "Name"},
                          {"secret": "Trial code"},
                          {"press": "I accept the terms of carriage"},
                          {"press": "Buy the ticket"},
                          {"expect": "Thank you"},
                          {"expect": "{{ input.price }}"},
                          {"expect": "Nothing is charged"},
                          {"read": "Ticket number", "as": "number"},
                          {"read": "Price", "as": "price"},
                          {"picture": "Receipt"}
                        ]""", null),
                List.of(
                        Field.of("day", "Day", FieldType.TEXT).asRequired(),
                        Field.of("sailing", "Sailing", FieldType.TEXT).asRequired(),
                        Field.of("price", "Price of an adult", FieldType.TEXT).asRequired()),
                List.of(
                        output("checks", "Checks", FieldType.LIST, "/checks"),
                        output("missed", "Checks that did not hold", FieldType.WHOLE, "/missed"),
                        new Action.Output(Field.of("number", "Number of the ticket", FieldType.TEXT), "/read/number"),
                        new Action.Output(Field.of("price", "Price on it", FieldType.TEXT), "/read/price")),
                List.of(
                        new Action.OwnResult("a check failed", "/status", "missed"),
                        new Action.OwnResult("got stuck", "/status", "stuck")),
                Action.Repeat.NEVER,
                true,
                Span.parse("2 min"),
                1,
                Span.parse("10 s")));
    }

    /** Only the relay of the room reaches these. */
    private static void machines(Workflows workflows) {
        workflows.putAction(action(
                "room.left",
                "See how full the machine host is",
                "Says how much of the disk is taken on which new machines are laid out.",
                "room-scripts",
                "START",
                "/room-left",
                null,
                List.of(),
                List.of(output("percent", "Taken, in percent", FieldType.WHOLE, "/json/percent")),
                false));
        Field which = Field.of("name", "Machine", FieldType.TEXT).asRequired();
        Action.Output state = output("state", "State", FieldType.TEXT, "/state");
        workflows.putAction(action(
                "machine.look",
                "See whether a machine is up",
                "Asks the host of the Mooring Data Room whether a machine is up or has stopped.",
                "machines",
                "GET",
                "/machines/{{ input.name }}",
                null,
                List.of(which),
                List.of(state),
                false));
        workflows.putAction(action(
                "machine.start",
                "Start a machine",
                "Starts a machine on the host of the Mooring Data Room; one that is up stays so.",
                "machines",
                "POST",
                "/machines/{{ input.name }}/start",
                "{}",
                List.of(which),
                List.of(state),
                true));
        workflows.putAction(new Action(
                new ActionKey("machine.launch"),
                "Launch a machine",
                "Launches a machine on the host of the Mooring Data Room; takes a while, and answers with its address.",
                "machines",
                new Action.HttpCall(
                        "POST",
                        "/machines",
                        Map.of("Idempotency-Key", "{{ call.key }}"),
                        "{\"name\":\"{{ input.name }}\",\"size\":\"{{ input.size }}\"}",
                        new Action.Poll(
                                "/job", "/state", "up", "failed", Span.parse("1 s"), "/percent", "/said", true)),
                List.of(
                        Field.of("name", "Name", FieldType.TEXT).asRequired(),
                        Field.of("size", "Size", FieldType.TEXT).asRequired()),
                List.of(
                        output("address", "Address", FieldType.TEXT, "/address"),
                        output("size", "Size", FieldType.TEXT, "/size")),
                List.of(),
                Action.Repeat.KEYED,
                true,
                Span.parse("10 min"),
                2,
                Span.parse("20 s")));
    }

    /** To be in a group, or not, may be said once more; that it was so is a result of its own. */
    private static void roster(Workflows workflows, String key, String name, String method) {
        workflows.putAction(new Action(
                new ActionKey(key),
                name,
                "Changes the group of the directory by which people see the roster.",
                "directory",
                new Action.HttpCall(
                        method,
                        "/",
                        null,
                        "{\"group\":{\"cn\":\"roster\"},\"member\":{\"uid\":\"{{ input.person }}\"}}",
                        null),
                List.of(Field.of("person", "Person", FieldType.PERSON).asRequired()),
                List.of(),
                List.of(new Action.OwnResult("already so", "/status", "already so")),
                Action.Repeat.FREE,
                true,
                Span.parse("20 s"),
                2,
                Span.parse("5 s")));
    }

    private static Action.Output output(String name, String label, FieldType type, String pointer) {
        return new Action.Output(Field.of(name, label, type).asRequired(), pointer);
    }

    /** All of them may be repeated: to restart, to look or to set the same once more does no harm. */
    private static Action action(
            String key,
            String name,
            String description,
            String connection,
            String method,
            String path,
            @Nullable String body,
            List<Field> inputs,
            List<Action.Output> outputs,
            boolean changesWorld) {
        return new Action(
                new ActionKey(key),
                name,
                description,
                connection,
                new Action.HttpCall(method, path, null, body, null),
                inputs,
                outputs,
                List.of(),
                Action.Repeat.FREE,
                changesWorld,
                Span.parse("20 s"),
                2,
                Span.parse("5 s"));
    }
}
