# Writes OUTPUT, a C++ source with the text of INPUT as firnfield::demo_model_text and the bytes of COVER as firnfield::demo_cover_bytes.
file(READ "${INPUT}" text)
file(READ "${COVER}" hex HEX)
string(REGEX REPLACE "([0-9a-f][0-9a-f])" "0x\\1," bytes "${hex}")
file(WRITE "${OUTPUT}" "// Made from the demo data.\n#include <cstddef>\nnamespace firnfield {\nextern const char* const demo_model_text;\nconst char* const demo_model_text = R\"~~(${text})~~\";\n"
  "extern const unsigned char demo_cover_bytes[];\nextern const std::size_t demo_cover_size;\nconst unsigned char demo_cover_bytes[] = {${bytes}};\nconst std::size_t demo_cover_size = sizeof demo_cover_bytes;\n}\n")
