package dastur.core.bpmn;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.notation.Generated;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.PersonId;
import dastur.core.run.World;
import dastur.core.step.task.HumanTask;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.WorkflowVersion;
import java.io.IOException;
import java.io.StringReader;
import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.Random;
import javax.xml.XMLConstants;
import javax.xml.transform.stream.StreamSource;
import javax.xml.validation.Schema;
import javax.xml.validation.SchemaFactory;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.xml.sax.SAXException;

class BpmnTest {
    private static final PersonId INES = new PersonId("ines");
    private static final Names NAMES = new Names(
            Map.of("harbour-office", "Harbour office", "crew-office", "Crew office"),
            Map.of(),
            Map.of(),
            Map.of(),
            Map.of(),
            Map.of());

    @Property(tries = 200)
    void whatWasWrittenIsReadBackWithoutLoss(@ForAll long seed) {
        WorkflowVersion version = Generated.workflow(new Random(seed), seed % 2 == 0);
        String xml = Bpmn.write(version);
        Bpmn.Read read = Bpmn.read(xml, 1, INES, Names.NONE);
        assertThat(read.version()).as(xml).isEqualTo(version);
        assertThat(read.adapted()).isEmpty();
        assertThat(read.leftOut()).isEmpty();
    }

    @Property(tries = 60)
    void whatIsWrittenFitsTheSchema(@ForAll long seed) throws Exception {
        String xml = Bpmn.write(Generated.workflow(new Random(seed), seed % 2 == 0));
        schema().newValidator().validate(new StreamSource(new StringReader(xml)));
    }

    /** The schema refuses what the standard refuses, so that the property above can fail. */
    @Test
    void theSchemaRefusesElementsInTheWrongPlace() throws Exception {
        String good = Bpmn.write(World.gateWorkflow(new ApprovalRule.AnyOne()));
        String bad = good.replaceFirst("<startEvent ", "<startEvent colour=\"red\" ");
        Schema schema = schema();
        schema.newValidator().validate(new StreamSource(new StringReader(good)));
        assertThatThrownBy(() -> schema.newValidator().validate(new StreamSource(new StringReader(bad))))
                .isInstanceOf(SAXException.class)
                .hasMessageContaining("colour");
        assertThatThrownBy(() -> schema.newValidator()
                        .validate(new StreamSource(
                                new StringReader(good.replace("sourceRef=\"look\"", "sourceRef=\"gone\"")))))
                .isInstanceOf(SAXException.class)
                .hasMessageContaining("gone");
    }

    @Test
    void theStandardsOwnElementsSayWhatTheyCan() {
        String xml = Bpmn.write(World.gateWorkflow(new ApprovalRule.AnyOne()));
        assertThat(xml)
                .contains("<userTask id=\"look\" name=\"Look at the gate\">")
                .contains("<serviceTask id=\"close\"")
                .contains("<lane id=\"lane.1\" name=\"group technicians\">")
                .contains("<bpmndi:BPMNShape bpmnElement=\"look\"")
                .contains("<formalExpression>group technicians</formalExpression>");
    }

    /** Another program changed a name, led an exit elsewhere and added a step. */
    @Test
    void changesMadeElsewhereAreTakenOver() {
        WorkflowVersion gate = World.gateWorkflow(new ApprovalRule.AnyOne());
        String xml = Bpmn.write(gate)
                .replace("name=\"Look at the gate\"", "name=\"Look at it closely\"")
                .replace("</process>", """
                        <manualTask id="Activity_1" name="Write it down"><documentation>In the log</documentation></manualTask>
                        <sequenceFlow id="f1" sourceRef="Activity_1" targetRef="cleared"/>
                        </process>""");
        Bpmn.Read read = Bpmn.read(xml, 4, INES, Names.NONE);
        assertThat(read.adapted()).singleElement().asString().contains("was called 'Look at the gate'");
        assertThat(read.version().number()).isEqualTo(4);
        assertThat(read.version().key()).isEqualTo(gate.key());
        assertThat(read.version().body().steps().getFirst().name()).isEqualTo("Look at it closely");
        assertThat(read.version().body().steps())
                .filteredOn(s -> s.name().equals("Write it down"))
                .singleElement()
                .isInstanceOfSatisfying(HumanTask.class, t -> {
                    assertThat(t.instructions()).isEqualTo("In the log");
                    assertThat(t.ways()).hasSize(1).containsKey("Done");
                });
    }

    /** What the extension was written for changed, so the account says that it was not taken over. */
    @Test
    void textsChangedElsewhereAreNoticed() {
        String xml = Bpmn.write(World.gateWorkflow(new ApprovalRule.AnyOne()))
                .replace("<formalExpression>group technicians<", "<formalExpression>group others<");
        assertThat(Bpmn.read(xml, 1, INES, Names.NONE).adapted())
                .anySatisfy(a -> assertThat(a).contains("'Look at the gate'").contains("another program changed"));
    }

    @Test
    void anotherProgramsFileBecomesADraftWithAnAccount() throws IOException {
        Bpmn.Read read = Bpmn.read(resource("foreign.bpmn"), 1, INES, NAMES);
        assertThat(Notation.write(read.version())).isEqualTo(resource("foreign.dastur"));
        assertThat(read.understood())
                .contains("user task 'Look at the request'", "parallel gateway 'fork' as lines side by side");
        assertThat(read.adapted())
                .anySatisfy(a ->
                        assertThat(a).startsWith("service task 'Make the link'").contains("until an action is chosen"))
                .anySatisfy(a ->
                        assertThat(a).startsWith("exclusive gateway 'Large?'").contains("write them anew"))
                .anySatisfy(
                        a -> assertThat(a).startsWith("start event 'Mail came'").contains("trigger"));
        assertThat(read.leftOut())
                .contains("data object 'Drawing'", "text annotation 'note'", "message flow 'Answer'")
                .anySatisfy(l -> assertThat(l).startsWith("the loop of user task 'Check each sheet'"));
    }

    /** Lines that are not cleanly apart cannot be lanes: a person says how it goes on, and the account says so. */
    @Test
    void tangledLinesBecomeAQuestion() {
        Bpmn.Read read = Bpmn.read(process("""
                        <startEvent id="s"/><parallelGateway id="g"/><task id="a" name="A"/><task id="b" name="B"/>
                        <endEvent id="e"/>
                        <sequenceFlow id="f0" sourceRef="s" targetRef="g"/>
                        <sequenceFlow id="f1" sourceRef="g" targetRef="a" name="first"/>
                        <sequenceFlow id="f2" sourceRef="g" targetRef="b" name="second"/>
                        <sequenceFlow id="f3" sourceRef="a" targetRef="b"/>
                        <sequenceFlow id="f4" sourceRef="b" targetRef="e"/>"""), 1, INES, NAMES);
        assertThat(read.version().body().steps().getFirst()).isInstanceOfSatisfying(HumanTask.class, t -> {
            assertThat(t.outcomes()).containsExactly("first", "second");
            assertThat(t.ways()).hasSize(2);
        });
        assertThat(read.adapted()).anySatisfy(a -> assertThat(a).contains("a person says how it goes on"));
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                "no xml",
                "<a/>",
                "<!DOCTYPE a [<!ENTITY x SYSTEM 'file:///etc/hostname'>]><a>&x;</a>",
                "<definitions xmlns='http://www.omg.org/spec/BPMN/20100524/MODEL'/>",
            })
    void whatCannotBeReadIsSaidInASentence(String text) {
        assertThatThrownBy(() -> Bpmn.read(text, 1, INES, NAMES))
                .isInstanceOf(IllegalArgumentException.class)
                .message()
                .isNotBlank()
                .doesNotContain("java.");
    }

    @Test
    void deepAndHugeFilesAreRefused() {
        String deep = "<a>".repeat(300) + "</a>".repeat(300);
        assertThatThrownBy(() -> Bpmn.read(deep, 1, INES, NAMES)).hasMessageContaining("depth");
        assertThatThrownBy(() -> Bpmn.read("x".repeat(Xml.MAX_CHARACTERS + 1), 1, INES, NAMES))
                .hasMessageContaining("longer than");
        String many = process("<task id='t'/>" + "<textAnnotation/>".repeat(40_000));
        assertThatThrownBy(() -> Bpmn.read(many, 1, INES, NAMES)).hasMessageContaining("elements");
    }

    private static String process(String inside) {
        return "<definitions xmlns='http://www.omg.org/spec/BPMN/20100524/MODEL'><process id='p' name='P'>" + inside
                + "</process></definitions>";
    }

    private static Schema schema() throws SAXException {
        SchemaFactory factory = SchemaFactory.newInstance(XMLConstants.W3C_XML_SCHEMA_NS_URI);
        return factory.newSchema(new StreamSource[] {
            new StreamSource(BpmnTest.class.getResource("/bpmn/own.xsd").toString()),
            new StreamSource(BpmnTest.class.getResource("/bpmn/diagram.xsd").toString()),
            new StreamSource(BpmnTest.class.getResource("/bpmn/model.xsd").toString())
        });
    }

    private static String resource(String name) throws IOException {
        try (var in = BpmnTest.class.getResourceAsStream("/bpmn/" + name)) {
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        }
    }
}
