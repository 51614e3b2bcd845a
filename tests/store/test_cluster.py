"""PostgreSQL of Keeve's own: starts, keeps, stops, leaves nothing running."""

import tempfile
from pathlib import Path

import psycopg
import pytest

from keeve.store.cluster import Cluster, free_port


def plain(url: str) -> str:
    return url.replace("+psycopg", "")


def test_a_cluster_keeps_its_data_and_leaves_nothing_running() -> None:
    with tempfile.TemporaryDirectory(prefix="keeve-cluster-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        with Cluster(folder / "pg", for_tests=True) as first:
            with psycopg.connect(plain(first.url), autocommit=True) as connection:
                connection.execute("create table kept (n int)")
            url = first.url
        with pytest.raises(psycopg.OperationalError, match=r"refused|failed"):
            psycopg.connect(plain(url), connect_timeout=2)
        assert not (folder / "pg" / "data" / "postmaster.pid").exists()
        with Cluster(folder / "pg", for_tests=True) as second, psycopg.connect(plain(second.url)) as connection:
            assert connection.execute("select count(*) from kept").fetchone() == (0,)


def test_a_second_start_from_the_same_folder_shares_the_server(cluster: Cluster) -> None:
    with Cluster(cluster.folder, for_tests=True) as other:
        assert other.url == cluster.url
    with psycopg.connect(plain(cluster.url)) as connection:  # leaving the second did not stop the first
        assert connection.execute("select 1").fetchone() == (1,)


def test_strangers_need_the_password(cluster: Cluster) -> None:
    stranger = plain(cluster.url).split("@")[1]
    with pytest.raises(psycopg.OperationalError, match="password"):
        psycopg.connect(f"postgresql://keeve@{stranger}", connect_timeout=2)


def test_a_port_that_is_taken_is_not_given_out() -> None:
    import socket

    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert port < free_port(port) < port + 100
    # What dies must find its port again: none that a caller may be given meanwhile (Linux, ip_local_port_range).
    assert all(free_port() < 32_768 for _ in range(50))
