#include "run.h"

// The core needs no application.
int main(int argc, char** argv) { return bathylux::run_tests(argc, argv); }
