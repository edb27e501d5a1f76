package dastur.core.expression;

import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import java.util.ArrayList;
import java.util.List;

/** Takes in what one step makes known to expressions. */
public final class Yield {
    private final List<Field> values = new ArrayList<>();
    private final List<Field> measured = new ArrayList<>();
    private final List<String> items = new ArrayList<>();
    private boolean anything;

    Yield() {
        value("outcome", "Outcome", FieldType.TEXT);
        value("at", "When", FieldType.TIME);
    }

    /** A value read as {@code steps.<id>.<name>}. */
    public Yield value(String name, String label, FieldType type) {
        values.add(Field.of(name, label, type));
        return this;
    }

    /** Values read as {@code steps.<id>.<name>}. */
    public Yield values(List<Field> fields) {
        values.addAll(fields);
        return this;
    }

    /** Values that are read as {@code measured.<name>} while it judges. */
    public void measured(List<Field> fields) {
        measured.addAll(fields);
    }

    /** The name that steps inside know their item by. */
    public void item(String name) {
        items.add(name);
    }

    /** What it gives is declared by something nobody knows here: that is a finding of its own, and any name is allowed. */
    public void anything() {
        anything = true;
    }

    List<Field> values() {
        return values;
    }

    List<Field> measured() {
        return measured;
    }

    List<String> items() {
        return items;
    }

    boolean givesAnything() {
        return anything;
    }
}
