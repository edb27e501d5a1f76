/** Workflows as BPMN 2.0 XML (ISO/IEC 19510) and decision tables as DMN 1.3 XML, out and in (N27). */
@NullMarked
package dastur.core.bpmn;

import org.jspecify.annotations.NullMarked;
