// The core needs no application.
namespace bathylux {
int run_tests(int argc, char** argv);
}
int main(int argc, char** argv) { return bathylux::run_tests(argc, argv); }
