package dastur.demo;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.record.Mac;
import dastur.store.Database;
import dastur.store.Organisation;
import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The demo's database is there whole or not at all. */
class DemoTest {
    @TempDir
    Path folder;

    private static void person(Database database, String id) {
        new Organisation(database)
                .putPerson(
                        new Person(new PersonId(id), "Name", id + "@kestrel.example", Set.of(Role.AGENT), true), null);
    }

    private boolean has(String id) {
        try (Database database = Database.inFolder(folder)) {
            return new Organisation(database).person(new PersonId(id)).isPresent();
        }
    }

    @Test
    void whatAKilledProcessLeftHalfMadeIsMadeAnew() {
        try (Database half = Database.inFolder(folder.resolve("making"))) {
            person(half, "half");
        }
        Demo.make(folder, Mac.NONE, database -> person(database, "whole"));
        assertThat(has("whole")).isTrue();
        assertThat(has("half")).isFalse();
        assertThat(folder.resolve("making")).doesNotExist();
    }

    @Test
    void nothingIsPutInPlaceWhenMakingFails() {
        assertThatThrownBy(() -> Demo.make(folder, Mac.NONE, database -> {
                    person(database, "half");
                    throw new IllegalStateException("the disk is full");
                }))
                .hasMessage("the disk is full");
        assertThat(folder.resolve(Database.FILE)).doesNotExist();

        Demo.make(folder, Mac.NONE, database -> person(database, "whole"));
        assertThat(has("whole")).isTrue();
        assertThat(has("half")).isFalse();
    }

    @Test
    void aDatabaseThatIsThereIsLeftAlone() {
        try (Database database = Database.inFolder(folder)) {
            person(database, "before");
        }
        Demo.make(folder, Mac.NONE, database -> person(database, "after"));
        assertThat(has("before")).isTrue();
        assertThat(has("after")).isFalse();
    }

    @Test
    void whileAnotherProcessMakesItNothingOfItsIsTakenAway() throws IOException {
        Path making = folder.resolve("making");
        try (Database other = Database.inFolder(making)) {
            person(other, "other");
        }
        Path half = making.resolve(Database.FILE);
        try (FileChannel channel = FileChannel.open(half, StandardOpenOption.WRITE);
                FileLock lock = channel.lock()) {
            assertThat(lock.isValid()).isTrue();
            assertThatThrownBy(() -> Demo.make(folder, Mac.NONE, database -> person(database, "mine")))
                    .hasStackTraceContaining("already in use");
            assertThat(half).exists();
        }
    }
}
