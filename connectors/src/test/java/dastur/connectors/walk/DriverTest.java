package dastur.connectors.walk;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What drives a browser, played by programs that fail to begin. */
class DriverTest {
    private static final String STARTS = "echo driver was started successfully on port 4321; exec sleep 60";

    @TempDir
    Path folder;

    private Path begun;
    private Path program;

    @BeforeEach
    void open() throws IOException {
        // Whoever it is started as may read the program, and leave there that it has begun.
        Files.setPosixFilePermissions(folder, PosixFilePermissions.fromString("rwxrwxrwx"));
        program = folder.resolve("driver");
        begun = folder.resolve("begun");
    }

    private Path says(String script) throws IOException {
        Files.writeString(program, "#!/bin/sh\n" + script + "\n");
        return Files.setPosixFilePermissions(program, PosixFilePermissions.fromString("rwxr-xr-x"));
    }

    @Test
    void oneThatEndsAtOnceIsStartedAgain() throws Exception {
        try (Driver driver = Driver.start(says("mkdir " + begun + " && { echo port taken; exit 1; }\n" + STARTS))) {
            assertThat(driver.port()).isEqualTo(4321);
            assertThat(driver.isAlive()).isTrue();
        }
        assertThat(begun).isDirectory();
    }

    @Test
    void oneThatEndsEachTimeIsQuoted() throws Exception {
        Path never = says("echo no address is free for it; exit 1");

        assertThatThrownBy(() -> Driver.start(never))
                .isInstanceOf(IOException.class)
                .hasMessage("The browser's driver ended at once, saying: no address is free for it");
    }
}
