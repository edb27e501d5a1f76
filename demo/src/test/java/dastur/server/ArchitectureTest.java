package dastur.server;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.classes;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;

import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.core.importer.Location;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;
import java.time.Clock;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZonedDateTime;

/** The borders of the modules, and the purity of the core. */
@AnalyzeClasses(
        packages = "dastur",
        importOptions = {ImportOption.DoNotIncludeTests.class, ArchitectureTest.NoTestsOfOthers.class})
class ArchitectureTest {
    /** Tests of other modules come as archives. */
    static final class NoTestsOfOthers implements ImportOption {
        @Override
        public boolean includes(Location location) {
            return !location.contains("-tests.jar");
        }
    }

    @ArchTest
    static final ArchRule coreReachesNothingOutside = noClasses()
            .that()
            .resideInAPackage("dastur.core..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage(
                    "dastur.store..",
                    "dastur.connectors..",
                    "dastur.server..",
                    "dastur.standins..",
                    "io.javalin..",
                    "org.hibernate..",
                    "jakarta..",
                    "java.net.http..",
                    "java.sql..",
                    "java.nio.file..",
                    "org.slf4j..");

    /** Rooms depend on the parts whose roles they play, and never the other way round. */
    @ArchTest
    static final ArchRule nothingOfTheCoreKnowsARoom = noClasses()
            .that()
            .resideInAPackage("dastur.core..")
            .and()
            .resideOutsideOfPackage("dastur.core.step..")
            .should()
            .dependOnClassesThat()
            .resideInAPackage("dastur.core.step..");

    @ArchTest
    static final ArchRule coreReadsNoClock = noClasses()
            .that()
            .resideInAPackage("dastur.core..")
            .should()
            .callMethod(Instant.class, "now")
            .orShould()
            .callMethod(System.class, "currentTimeMillis")
            .orShould()
            .callMethod(System.class, "nanoTime")
            .orShould()
            .callMethod(LocalDate.class, "now")
            .orShould()
            .callMethod(ZonedDateTime.class, "now")
            .orShould()
            .dependOnClassesThat()
            .areAssignableTo(Clock.class)
            .orShould()
            .dependOnClassesThat()
            .areAssignableTo(java.util.Random.class)
            .orShould()
            .dependOnClassesThat()
            .areAssignableTo(Thread.class);

    @ArchTest
    static final ArchRule storeKnowsOnlyTheCore = noClasses()
            .that()
            .resideInAPackage("dastur.store..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage("dastur.server..", "dastur.connectors..", "dastur.standins..", "io.javalin..");

    @ArchTest
    static final ArchRule connectorsKnowOnlyTheCore = noClasses()
            .that()
            .resideInAPackage("dastur.connectors..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage("dastur.server..", "dastur.store..", "dastur.standins..", "io.javalin..");

    @ArchTest
    static final ArchRule standinsSpeakOnlyPublicProtocols = noClasses()
            .that()
            .resideInAPackage("dastur.standins..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage("dastur.core..", "dastur.server..", "dastur.store..", "dastur.connectors..");

    /** One way through the layers: only the command service opens a ticket's transaction to write it. */
    @ArchTest
    static final ArchRule onlyTheCommandServiceWritesTickets = classes()
            .that()
            .haveFullyQualifiedName("dastur.store.Work")
            .should()
            .onlyBeAccessed()
            .byAnyPackage("dastur.store..", "dastur.server.work..");

    /** A subject's routes take what they use: only the route table has all there is. */
    @ArchTest
    static final ArchRule noSubjectTakesTheWholeApplication = noClasses()
            .that()
            .resideInAnyPackage("dastur.server.api..", "dastur.server.work..", "dastur.server.http..")
            .and()
            .doNotHaveSimpleName("RouteTable")
            .should()
            .dependOnClassesThat()
            .haveFullyQualifiedName("dastur.server.App");

    @ArchTest
    static final ArchRule rowsStayInTheStore = classes()
            .that()
            .haveNameMatching("dastur\\.store\\.Rows.*")
            .should()
            .onlyBeAccessed()
            .byAnyPackage("dastur.store..");
}
