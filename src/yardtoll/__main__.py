"""`python -m yardtoll` is the same as the `yardtoll` command."""

from yardtoll.cli import main

if __name__ == "__main__":
    main()
