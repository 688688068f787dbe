"""`python -m zeotherm` is the same as the command."""

from zeotherm.cli import main

if __name__ == "__main__":
    main()
