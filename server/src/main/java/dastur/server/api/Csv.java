package dastur.server.api;

import com.fasterxml.jackson.dataformat.csv.CsvMapper;
import com.fasterxml.jackson.dataformat.csv.CsvSchema;
import java.io.IOException;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** Tables as CSV (RFC 4180), with a first line of column names, that no spreadsheet runs as formulas (CWE-1236). */
final class Csv {
    /** A spreadsheet would take a cell that begins so for a formula. */
    private static final String FORMULA = "=+-@\t\r";

    private Csv() {}

    static String write(List<String> columns, List<Map<String, Object>> rows) {
        CsvSchema.Builder schema = CsvSchema.builder();
        columns.forEach(schema::addColumn);
        try {
            return new CsvMapper()
                    .writer(schema.build().withHeader().withLineSeparator("\r\n"))
                    .writeValueAsString(rows.stream().map(Csv::guarded).toList());
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    private static Map<String, Object> guarded(Map<String, Object> row) {
        Map<String, Object> guarded = new LinkedHashMap<>();
        row.forEach((name, value) -> guarded.put(name, isFormula(String.valueOf(value)) ? "'" + value : value));
        return guarded;
    }

    private static boolean isFormula(String cell) {
        return !cell.isEmpty() && FORMULA.indexOf(cell.charAt(0)) >= 0 && !cell.matches("[+-]?\\d+(\\.\\d+)?");
    }

    /** What was guarded when it went out comes back as it was. */
    static String unguarded(String cell) {
        return cell.startsWith("'") && isFormula(cell.substring(1)) ? cell.substring(1) : cell;
    }
}
