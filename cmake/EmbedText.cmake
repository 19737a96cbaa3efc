# Writes OUTPUT, a C++ source with the text of INPUT as firnfield::demo_model_text.
file(READ "${INPUT}" text)
file(WRITE "${OUTPUT}" "// Made from data/demo.toml.\nnamespace firnfield {\nextern const char* const demo_model_text;\nconst char* const demo_model_text = R\"~~(${text})~~\";\n}\n")
