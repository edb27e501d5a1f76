package dastur.connectors;

import java.util.function.BooleanSupplier;
import java.util.function.Consumer;

/** Whoever has a call: hears what is said, and may want it no more. */
record Listener(BooleanSupplier cancels, Consumer<String> hears) implements Connector.Heartbeat {
    static Listener hearing(Consumer<String> hears) {
        return new Listener(() -> false, hears);
    }

    static Listener cancelling() {
        return new Listener(() -> true, text -> {});
    }

    @Override
    public boolean stillMine() {
        return true;
    }

    @Override
    public boolean cancelled() {
        return cancels.getAsBoolean();
    }

    @Override
    public void heard(String text) {
        hears.accept(text);
    }
}
