# Nivelum's application in a container: podman build -t nivelum . ; the database, the proxy and the environment of
# docs/run-it.md stand beside it. It listens on 8000 inside.
FROM docker.io/library/debian:bookworm-slim
RUN apt-get update \
  && apt-get install -y --no-install-recommends python3 python3-venv postgresql-client libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 \
  && rm -rf /var/lib/apt/lists/* \
  && useradd --system --home-dir /var/lib/nivelum --create-home nivelum
WORKDIR /opt/nivelum
COPY requirements/runtime.txt requirements/runtime.txt
RUN python3 -m venv /opt/venv && /opt/venv/bin/pip install --no-cache-dir --require-hashes -r requirements/runtime.txt
COPY bin bin
COPY src src
RUN python3 -m compileall -q src
ENV NIVELUM_PYTHON=/opt/venv/bin/python NIVELUM_VAR=/var/lib/nivelum
USER nivelum
EXPOSE 8000
HEALTHCHECK CMD ["/opt/venv/bin/python", "-c", "import urllib.request; urllib.request.urlopen('http://127.0.0.1:8000/health/live', timeout=5)"]
ENTRYPOINT ["/opt/nivelum/bin/serve"]
CMD ["--host", "0.0.0.0", "--workers", "2", "--port", "8000"]
