package dastur.core.bpmn;

import dastur.core.notation.Names;
import dastur.core.people.PersonId;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;

/**
 * A workflow as BPMN 2.0 XML with diagram interchange. What Dastur wrote it reads back without loss; other programs' files
 * become a draft with a plain account of what was made of them.
 */
public final class Bpmn {
    private Bpmn() {}

    /**
     * What came of a file.
     *
     * @param understood elements that mean the same here
     * @param adapted elements that became something near, with what is left to do
     * @param leftOut elements that nothing here corresponds to
     */
    public record Read(WorkflowVersion version, List<String> understood, List<String> adapted, List<String> leftOut) {
        public Read {
            understood = List.copyOf(understood);
            adapted = List.copyOf(adapted);
            leftOut = List.copyOf(leftOut);
        }
    }

    public static String write(WorkflowVersion version) {
        return BpmnWriter.write(version);
    }

    /**
     * Reads a file.
     *
     * @param number the number the version will have
     * @param owner owns what comes from another program's file
     * @throws IllegalArgumentException with a sentence for the reader when the file cannot be read at all
     */
    public static Read read(String xml, int number, PersonId owner, Names names) {
        return BpmnReader.read(xml, number, owner, names);
    }
}
