package dastur.server;

import dastur.demo.DemoScene;
import dastur.standins.Standins;
import dastur.store.Database;

/** The application on the demo, with the world around it. */
public final class DemoApp implements AutoCloseable {
    private final DemoScene scene;
    private final Wiring wiring;

    DemoApp(Settings settings, DemoScene scene) {
        this.scene = scene;
        this.wiring = new Wiring(settings, scene);
    }

    public App app() {
        return wiring.app();
    }

    public Database database() {
        return wiring.database();
    }

    public int port() {
        return wiring.port();
    }

    public Standins standins() {
        return scene.standins();
    }

    @Override
    public void close() {
        wiring.close();
    }
}
